<script setup lang="ts">
import { type ClothItem, couldMove, durationWords, type HourRow, pressure } from '@loom/core/view'
import { onClickOutside } from '@vueuse/core'
import { computed, nextTick, onMounted, ref, watch } from 'vue'
import { useFloatingBy } from '../../../ui/floating.ts'

/** What a row's time is made of, and what could go elsewhere, what presses least first. */
const props = defineProps<{
  row: HourRow
  at: DOMRect
  defaultMinutes: number
  /** There is a chat to send it to. */
  canSend: boolean
}>()
const emit = defineEmits<{ lighten: [item: ClothItem]; send: []; close: [] }>()

const panel = ref<HTMLElement | null>(null)
const over = computed(() => props.row.load.committed - props.row.load.capacity)
/** Of all that a row shows, what its load counts. */
const movable = computed(() => {
  const { blocks, head, counts, date } = props.row
  const counted = blocks.filter(b => counts(b.item))
  return couldMove(counted, head.filter(counts), i => pressure(i, date), props.defaultMinutes).slice(0, 8)
})
const parts = computed(() => {
  const { parts: p, withoutEstimate } = props.row.load
  return [
    [p.meetings, 'in events'],
    [p.travel, 'of travel'],
    [p.breaks, 'of breaks'],
    [p.blocks, 'of work with an hour'],
    [
      p.planned,
      `planned without an hour${withoutEstimate > 0 ? `, ${withoutEstimate} without estimate` : ''}`,
    ],
  ].filter(([minutes]) => Number(minutes) > 0) as [number, string][]
})
const place = useFloatingBy(() => props.at, panel)
onClickOutside(panel, () => emit('close'))
/** What would still be too much without it. */
const after = (frees: number): string => {
  const left = over.value - frees
  return left > 0 ? `then ${durationWords(left)} too much` : 'then it fits'
}
const focusFirst = (): void =>
  (panel.value?.querySelector<HTMLElement>('button') ?? panel.value)?.focus({ preventScroll: true })
onMounted(focusFirst)
// What was picked is gone from the list; the next can be picked at once.
watch(
  () => movable.value.map(m => m.item.key).join(),
  () => void nextTick(focusFirst),
)
</script>

<template>
  <div
    ref="panel"
    class="panel"
    role="dialog"
    aria-label="Load"
    tabindex="-1"
    :style="place"
    @keydown.esc.stop="emit('close')"
  >
    <p class="sum" :class="{ over: over > 0 }">
      <template v-if="row.load.atLeast">At least </template>{{ durationWords(row.load.committed) }} of
      {{ durationWords(row.load.capacity)
      }}<template v-if="over > 0">: {{ durationWords(over) }} too much</template>
    </p>
    <ul class="parts quiet">
      <li v-for="[minutes, what] in parts" :key="what">{{ durationWords(minutes) }} {{ what }}</li>
    </ul>
    <p v-if="movable.length === 0" class="quiet">Nothing here is ours to move and would free time.</p>
    <template v-else>
      <p class="quiet">What could go back to the week, what presses least first:</p>
      <div v-for="{ item, frees } in movable" :key="item.key" class="entry">
        <span class="title">{{ item.title }}</span>
        <span class="quiet"
          >frees {{ durationWords(frees) }}<template v-if="over > 0">, {{ after(frees) }}</template></span
        >
        <button
          type="button"
          class="push small"
          :aria-label="
            item.kind === 'task' || item.kind === 'tied'
              ? `${item.title}: any day this week`
              : `Give back the time of ${item.title}`
          "
          @click="emit('lighten', item)"
        >
          {{ item.kind === 'task' || item.kind === 'tied' ? 'Any day' : 'Give back' }}
        </button>
      </div>
    </template>
    <p v-if="canSend" class="send">
      <button type="button" class="push small" @click="emit('send')">Send to a chat</button>
    </p>
  </div>
</template>

<style scoped>
.panel {
  position: fixed;
  z-index: 900;
  width: 400px;
  max-width: calc(100vw - 16px);
  max-height: 350px;
  overflow: auto;
  box-sizing: border-box;
  padding: 10px 12px;
  background: var(--cloth);
  border: 1px solid var(--warp-strong);
  border-radius: 3px;
  box-shadow: var(--float);
}
p {
  margin: 0 0 6px;
}
.send {
  margin: 8px 0 0;
}
.sum {
  font-weight: 700;
}
.over {
  color: var(--clay);
}
.parts {
  margin: 0 0 8px;
  padding-left: 16px;
}
.entry {
  display: flex;
  align-items: center;
  gap: 8px;
  padding: 4px 0;
  border-top: 1px solid var(--warp);
}
.title {
  flex: 1;
  min-width: 0;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
</style>
