<script setup lang="ts">
import { clockWords } from '../../../ui/telling.ts'
import {
  type Clash,
  type ClothItem,
  durationWords,
  type Free,
  instantDayWords,
  lengthOf,
} from '@loom/core/view'
import { onClickOutside } from '@vueuse/core'
import { computed, nextTick, onMounted, ref } from 'vue'
import { useFloatingBy } from '../../../ui/floating.ts'
import { walk } from '../../../ui/walk.ts'
import { type CommandTerms, menuOf, type Outcome } from '../data/commands.ts'
import { keyOf } from '../data/keys.ts'
import { KIND_WORDS, placeWords } from '../data/words.ts'
import { type Source, sourceWords } from '../data/signs.ts'

const props = defineProps<{
  item: ClothItem
  /** What a block is time for. */
  task: ClothItem | null
  at: DOMRect
  zone: string
  defaultMinutes: number
  sources: readonly Source[]
  keys: Readonly<Record<string, string>>
  now: number
  clash: Clash | null
  /** The next spans that would hold it. */
  room: readonly Free[]
  /** Nothing may be changed. */
  onlyLooks?: boolean
  /** What the clock of whoever asks runs for. */
  clocked?: string | null
}>()
const emit = defineEmits<{
  act: [outcome: Outcome]
  free: [at: Free]
  close: []
}>()

const list = ref<HTMLElement | null>(null)
const length = computed(() => lengthOf(props.item, props.defaultMinutes))

const terms = computed((): CommandTerms => ({
  zone: props.zone,
  defaultMinutes: props.defaultMinutes,
  now: props.now,
  task: props.task,
  onlyLooks: props.onlyLooks === true,
  clocked: props.clocked ?? null,
  unsupported: props.sources.find(s => s.id === props.item.sources[0])?.unsupported ?? [],
}))
const choices = computed(() =>
  menuOf(props.item, terms.value).map(command => ({
    name: command.name(props.item),
    keys: typeof command.key === 'string' ? keyOf(command.key, props.keys).toUpperCase() : command.key?.says,
    run: () => emit('act', command.outcome(props.item, terms.value)),
  })),
)

const place = useFloatingBy(() => props.at, list)
onClickOutside(list, () => emit('close'))
onMounted(async () => {
  await nextTick()
  list.value?.querySelector<HTMLElement>('button')?.focus({ preventScroll: true })
})
</script>

<template>
  <div
    ref="list"
    class="menu"
    :style="place"
    role="dialog"
    :aria-label="item.title"
    @keydown.esc.stop="emit('close')"
    @keydown.down.prevent="walk(list, 1)"
    @keydown.up.prevent="walk(list, -1)"
  >
    <div class="what">
      <strong>{{ item.title }}</strong>
      <span
        >{{ placeWords(item, zone)
        }}<template v-if="item.place.kind === 'timed'"> · {{ durationWords(length) }}</template></span
      >
      <span>{{ KIND_WORDS[item.kind] }} · {{ sourceWords(item, sources) }}</span>
      <span v-if="item.fixedBecause" class="fixed">{{ item.fixedBecause }}</span>
    </div>
    <div v-if="item.conflict" class="clash">
      <strong>Both sides changed it.</strong>
      <RouterLink to="/rules/conflicts" class="free">Resolve conflict</RouterLink>
    </div>
    <div v-if="clash" class="clash">
      <strong>Clashes with {{ clash.stays.title }}.</strong>
      <template v-if="room.length > 0 && !onlyLooks">
        Free:
        <button v-for="f in room" :key="f.startMs" type="button" class="plain free" @click="emit('free', f)">
          {{ instantDayWords(f.startMs, zone).replace(/ \w+$/, '') }} {{ clockWords(f.startMs, zone) }}
        </button>
      </template>
    </div>
    <button v-for="c in choices" :key="c.name" type="button" class="plain choice" @click="c.run">
      {{ c.name }}<kbd v-if="c.keys">{{ c.keys }}</kbd>
    </button>
  </div>
</template>

<style scoped>
.menu {
  position: fixed;
  width: 286px;
  box-sizing: border-box;
  z-index: 900;
  background: var(--cloth);
  border: 1px solid var(--warp-strong);
  border-radius: 3px;
  box-shadow: var(--float);
  padding-bottom: 4px;
  max-height: calc(100vh - 16px);
  overflow: auto;
}
.clash {
  padding: 0 12px 6px;
  font-size: 12.5px;
  color: var(--clay);
}
.free {
  margin-left: 6px;
  text-decoration: underline;
}
.what {
  display: grid;
  padding: 9px 12px;
  border-bottom: 1px solid var(--warp);
  margin-bottom: 4px;
  font-size: 12.5px;
  color: var(--husk);
}
.what strong {
  font-size: 14px;
  color: var(--peat);
}
.fixed {
  color: var(--clay);
}
.choice {
  display: flex;
  justify-content: space-between;
  width: 100%;
  padding: 3px 12px;
  text-align: left;
}
.choice:hover,
.choice:focus-visible {
  background: var(--amber-wash);
  outline-offset: -2px;
}
kbd {
  font: inherit;
  font-size: 12px;
  color: var(--husk);
}
/* Nobody reads up on keys where there are none. */
@media (max-width: 480px) and (pointer: coarse) {
  kbd {
    display: none;
  }
}
</style>
