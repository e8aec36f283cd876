<script setup lang="ts">
import { type ClothItem, dayWords } from '@loom/core/view'
import { computed } from 'vue'
import { edgeOf, PRIORITY_WORDS, type Source, sourceWords, stitchesOf } from '../data/signs.ts'
import { useShownFacts } from '../data/shown-facts.ts'
import PriorityStitches from '../item/PriorityStitches.vue'
import ConflictKnot from '../item/ConflictKnot.vue'
import { useSession } from '../../../stores/session.ts'
import { mayBeAsked } from '../data/words.ts'
import TaskTick from '../item/TaskTick.vue'
import { isDrafted } from '../draft/drafted-items.ts'

const session = useSession()
const props = defineProps<{
  item: ClothItem
  sources: readonly Source[]
  /** Shown on the shelf, with its due date and pressure. */
  pressure?: number
  /** Why it presses. */
  reasons?: readonly string[]
  /** Its hour, where the axis does not show it. */
  hour?: string
  /** The day it was planned for and not done. */
  leftOver?: string | null
  /** What else there is to know stands beside it. */
  wide?: boolean
  /** Which of its days this is, where it lies on several. */
  part?: string
  lifted: boolean
}>()
const emit = defineEmits<{ toggle: []; menu: [at: DOMRect] }>()

const known = useShownFacts()
const dyes = computed(() => known.dyes(props.item))
const stitches = computed(() => stitchesOf(props.item.priority))
const facts = computed(() => {
  const { item, leftOver } = props
  const from = leftOver ? [`from ${dayWords(leftOver)}`] : []
  const of = item.partOf ? [`part of ${item.partOf.title}`] : []
  return [...from, ...of, ...known.of(item)].join(' · ')
})
const name = computed(() => {
  const { item } = props
  const done = item.cancelled ? 'task, cancelled' : 'task, done'
  const parts = [item.title, item.kind === 'event' ? 'all-day event' : item.done ? done : 'task']
  if (item.partOf) parts.push(`part of ${item.partOf.title}`)
  if (item.conflict) parts.push('both sides changed it')
  if (props.hour) parts.push(props.hour)
  if (props.part) parts.push(props.part)
  if (item.due) parts.push(`due ${dayWords(item.due)}`)
  if (stitches.value > 0) parts.push(PRIORITY_WORDS[stitches.value] ?? '')
  if (props.pressure !== undefined) parts.push(`pressure ${props.pressure}`)
  return parts.join(', ')
})
const hint = computed(() =>
  [
    props.item.title,
    sourceWords(props.item, props.sources),
    props.pressure === undefined
      ? ''
      : `Pressure ${props.pressure} of 100: ${(props.reasons ?? []).join(', ')}`,
    props.item.fixedBecause ?? '',
  ]
    .filter(Boolean)
    .join('\n'),
)

function open(event: Event): void {
  emit('menu', (event.currentTarget as HTMLElement).getBoundingClientRect())
}
</script>

<template>
  <div
    class="line"
    :class="{
      done: item.done,
      onShelf: pressure !== undefined,
      allDay: item.kind === 'event',
      lifted,
      pending: item.pending,
      drafted: isDrafted(item.key),
    }"
    :style="{ '--dye': dyes[0], '--edge': edgeOf(dyes) }"
    role="group"
    tabindex="0"
    :aria-label="name"
    :title="hint"
    :data-key="item.key"
    :data-drag="
      (item.movable || (session.mayAsk && mayBeAsked(item))) && !item.key.startsWith('new ')
        ? 'line'
        : undefined
    "
    @click="open"
    @contextmenu.prevent="open"
  >
    <TaskTick
      v-if="item.kind !== 'event' && !isDrafted(item.key)"
      :done="item.done"
      :title="item.title"
      :disabled="!item.completable"
      :round="item.recurring"
      @toggle="emit('toggle')"
    />
    <span v-if="hour" class="facts">{{ hour }}</span>
    <span class="title"><ConflictKnot v-if="item.conflict" /> {{ item.title }}</span>
    <span v-if="part" class="facts">{{ part.replace(/^day /, '').replace(' of ', '/') }}</span>
    <template v-if="wide">
      <span v-if="facts" class="facts more">{{ facts }}</span>
      <PriorityStitches v-if="known.shows('priority')" :priority="item.priority" />
    </template>
    <span v-if="pressure !== undefined" class="below">
      <span class="facts" :class="{ late: item.overdue }">{{ facts }}</span>
      <PriorityStitches v-if="known.shows('priority')" :priority="item.priority" />
      <span v-if="known.shows('pressure')" class="pressure" aria-hidden="true"
        ><i :style="{ width: `${pressure}%` }"
      /></span>
    </span>
  </div>
</template>

<style scoped>
.line.drafted {
  outline: 1px dashed var(--amber);
}
.line {
  display: flex;
  align-items: center;
  gap: 8px;
  min-width: 0;
  cursor: pointer;
  touch-action: none;
  user-select: none;
  padding: 1px 4px 1px 6px;
  font-size: 12.5px;
  line-height: 1.35;
  position: relative;
  border-radius: 3px;
}
.line::before {
  content: '';
  position: absolute;
  inset: 3px auto 3px 0;
  width: 3px;
  background: var(--edge);
  border-radius: 2px;
}
.allDay {
  background: color-mix(in srgb, var(--dye) var(--tint), var(--cloth));
  padding-left: 9px;
}
.allDay::before {
  inset-block: 0;
}
.title {
  flex: 1;
  min-width: 0;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.onShelf {
  background: var(--cloth);
  border: 1px solid var(--warp);
  padding: 4px 9px 4px 12px;
  font-size: 13.5px;
}
.onShelf::before {
  inset: 0 auto 0 0;
  width: 5px;
}
/* On the shelf there is room for a whole title; what else there is to know stands under it. */
.onShelf {
  display: grid;
  grid-template-columns: auto minmax(0, 1fr);
  gap: 0 9px;
}
.below {
  grid-column: 2;
  display: flex;
  align-items: center;
  gap: 8px;
  min-height: 16px;
  min-width: 0;
}
.below .facts {
  flex: 1;
  overflow: hidden;
  text-overflow: ellipsis;
}
.done .title {
  text-decoration: line-through;
  color: var(--husk);
}
.lifted {
  opacity: 0.35;
}
.facts {
  color: var(--husk);
  font-size: 12px;
  white-space: nowrap;
}
.more {
  flex: none;
  max-width: 45%;
  overflow: hidden;
  text-overflow: ellipsis;
}
.late {
  color: var(--clay);
  font-weight: 700;
}
.pressure {
  width: 26px;
  height: 5px;
  background: var(--warp);
  flex: none;
}
.pressure i {
  display: block;
  height: 100%;
  background: var(--amber);
}
.line:hover {
  background: var(--amber-wash);
}
.pending .title::after {
  content: '';
  display: inline-block;
  width: 6px;
  height: 6px;
  margin-left: 6px;
  border-radius: 50%;
  background: var(--amber);
}
</style>
