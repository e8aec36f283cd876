<script setup lang="ts">
import { clockWords } from '../../../ui/telling.ts'
import {
  type Clash,
  type ClothItem,
  dayAt,
  type Edit,
  durationWords,
  type Free,
  instantDayWords,
  lengthOf,
  mondayOf,
} from '@loom/core/view'
import { computed, nextTick, onBeforeUnmount, onMounted, ref } from 'vue'
import { beside } from '../../../ui/beside.ts'
import { walk } from '../../../ui/walk.ts'
import { type Act, keyOf } from '../data/keys.ts'
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
}>()
const emit = defineEmits<{
  edit: [edit: Edit]
  /** The block's time is worked, and its task is done with it. */
  finish: []
  ask: [act: Act]
  free: [at: Free]
  close: []
}>()

const list = ref<HTMLElement | null>(null)
const length = computed(() => lengthOf(props.item, props.defaultMinutes))

interface Choice {
  name: string
  keys?: string
  run: () => void
}
const choices = computed((): Choice[] => {
  const { item } = props
  if (item.key.startsWith('new ')) return []
  const found: Choice[] = []
  const isTask = item.kind === 'task' || item.kind === 'tied'
  const key = (act: Act): string => keyOf(act, props.keys).toUpperCase()
  const edit = (name: string, e: Edit, keys?: string): void =>
    void found.push({ name, ...(keys && { keys }), run: () => emit('edit', e) })
  const ask = (name: string, act: Act): void =>
    void found.push({ name, keys: key(act), run: () => emit('ask', act) })
  ask('Open', 'open')
  if (isTask && item.completable)
    edit(
      item.done ? 'Reopen' : item.recurring ? 'Complete this occurrence' : 'Complete',
      { do: item.done ? 'reopen' : 'complete' },
      'Space',
    )
  const unsupported = props.sources.find(s => s.id === item.sources[0])?.unsupported ?? []
  if (isTask && item.completable && !item.done && !unsupported.includes('status:cancelled'))
    edit('Cancel task', { do: 'cancel' }, key('cancel'))
  if (item.kind === 'block')
    edit(
      item.done ? 'Mark time as not worked' : 'Mark time as worked',
      { do: 'spend', spent: !item.done },
      'Space',
    )
  if (item.kind === 'block' && !item.done && props.task?.completable && !props.task.done)
    found.push({ name: 'Mark as worked, and complete its task', run: () => emit('finish') })
  if (item.movable) {
    ask(item.place.kind === 'none' ? 'Place at…' : 'Move to…', 'place')
    if (item.place.kind === 'timed') {
      edit('Longer by 15 min', { do: 'lengthen', minutes: length.value + 15 }, 'Shift →')
      if (length.value > 15)
        edit('Shorter by 15 min', { do: 'lengthen', minutes: length.value - 15 }, 'Shift ←')
    }
  }
  if (isTask && !item.done) {
    if (item.place.kind !== 'none') ask('A further block…', 'block')
    if (item.movable) {
      edit(
        'Any day this week',
        { do: 'any-day', week: mondayOf(dayAt(props.now, props.zone)) },
        key('any-day'),
      )
      if (item.putBy === null) ask('Put by until…', 'put-by')
      else edit('Back from what was put by', { do: 'put-by', until: null })
      if (item.place.kind !== 'none') edit('Back to the shelf', { do: 'unplace' }, 'Delete')
    }
    ask('Assign to…', 'give')
  }
  if (item.kind === 'event' && !item.recurring)
    edit(item.movable ? 'Mark fixed' : 'Mark flexible', { do: 'fix', movable: !item.movable })
  edit(
    item.leftOut ? 'Include in my plan' : 'Exclude from my plan',
    { do: 'leave-out', out: !item.leftOut },
    key('leave-out'),
  )
  if (isTask ? item.completable : item.movable) ask('Rename…', 'rename')
  ask('Duplicate', 'duplicate')
  if (!item.recurring && (isTask || item.movable)) ask('Move to another list…', 'move')
  found.push({ name: 'Delete…', run: () => emit('edit', { do: 'delete' }) })
  return found
})

const place = computed(() => {
  const height = Math.min(window.innerHeight - 16, 96 + (props.clash ? 46 : 0) + choices.value.length * 27)
  const size = { width: 286, height }
  return {
    ...beside(props.at, size, window),
    width: `${size.width}px`,
  }
})

function outside(event: PointerEvent): void {
  if (!list.value?.contains(event.target as Node)) emit('close')
}
onMounted(async () => {
  await nextTick()
  list.value?.querySelector<HTMLElement>('button')?.focus()
  window.addEventListener('pointerdown', outside, true)
})
onBeforeUnmount(() => window.removeEventListener('pointerdown', outside, true))
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
      <template v-if="room.length > 0">
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
