<script setup lang="ts">
import { minuteWords } from '../../../ui/telling.ts'
import {
  type Clash,
  type ClothItem,
  dayOfSeveral,
  dayOfWords,
  type HourRow,
  inSteps,
  isOnAxis,
  longDayWords,
} from '@loom/core/view'
import { computed } from 'vue'
import ClothBlock from './ClothBlock.vue'
import type { Held } from '../drag/drag.ts'
import RowLabel from './RowLabel.vue'
import { landingIn, shareOf } from '../drag/row-landing.ts'
import type { Source } from '../data/signs.ts'
import TaskLine from '../shelf/TaskLine.vue'
import type { Hem } from '../data/hems.ts'
import type { OfferedSpan } from '../offers/use-offering.ts'
import OfferedMark from './OfferedMark.vue'
import WindowHem from './WindowHem.vue'

const props = defineProps<{
  row: HourRow
  axis: { from: number; to: number }
  /** Pixels; 0 before it is known. */
  minuteWidth: number
  /** Minute after midnight, if the present moment is in this row. */
  now: number | null
  sources: readonly Source[]
  held: Held | null
  clashes: readonly Clash[]
  /** The title where rows are not days. */
  named: boolean
  /** It is somebody's. */
  person?: boolean
  /** The viewer's own, among those of several people. */
  own: boolean
  /** It is the only one, and has the room of several. */
  alone: boolean
  /** Work windows of its day. */
  hems: readonly Hem[]
  /** What of it is offered to guests. */
  offered: readonly OfferedSpan[]
}>()
const emit = defineEmits<{
  toggle: [item: ClothItem]
  menu: [item: ClothItem, at: DOMRect]
  load: [at: DOMRect]
  tick: [key: string, done: boolean]
  window: [id: string]
}>()

const day = computed(() => longDayWords(props.row.date))
const name = computed(() => (props.named ? `${props.row.title}, ${day.value}` : day.value))
const rowKey = computed(() => props.row.key.split(' ')[0] ?? '')
const share = (minutes: number): string => shareOf(minutes, props.axis)
/** Of titles: less cannot be read; so much can. */
const TITLE_PX = [58, 100]
const off = computed(() => {
  const { axis, row } = props
  const { hours } = row
  if (!hours) return [{ left: '0%', width: '100%' }]
  const from = Math.max(axis.from, Math.min(axis.to, hours.from))
  const to = Math.max(axis.from, Math.min(axis.to, hours.to))
  return [
    { left: '0%', width: share(from - axis.from) },
    { left: share(to - axis.from), width: share(axis.to - to) },
  ]
})
const onAxis = computed(() => {
  const blocks = props.row.blocks.filter(b => isOnAxis(b, props.axis))
  if (props.minuteWidth === 0) return blocks
  const [least, enough] = TITLE_PX.map(px => px / props.minuteWidth) as [number, number]
  return inSteps(blocks, { least, enough, lanes: props.alone ? 5 : 4 })
})
/** Items outside the axis are listed with their hour. */
const besides = computed(() => props.row.blocks.filter(b => !isOnAxis(b, props.axis)))
const lanes = computed(() => Math.max(1, ...onAxis.value.map(b => b.lanes)))
const HEM_PX = 17
const hem = computed(() => (props.hems.length > 0 ? HEM_PX : 0))
const height = computed(() => hem.value + bare.value)
const bare = computed(() =>
  Math.max(
    props.alone ? 150 : 63,
    lanes.value * (props.alone && lanes.value < 4 ? 50 : 27) + 4,
    (props.row.head.length + besides.value.length) * 20 + 10,
  ),
)
const LINE = 15.6
/** How many lines of text one of so many lanes has room for. */
const linesIn = (some: number): number => Math.floor((bare.value / some - 8) / LINE)
const dueMarks = computed(() =>
  props.row.dueMarks.filter(d => d.minute >= props.axis.from && d.minute <= props.axis.to),
)
const clashed = computed(() => new Set(props.clashes.map(c => c.moves.key)))

const landing = computed(() => landingIn(props.held, props.row, rowKey.value, props.axis))
const isLifted = (key: string): boolean => props.held?.item.key === key && !props.held.copying
</script>

<template>
  <div
    class="row"
    role="row"
    :class="{ today: row.today && (own || !named), idle: !row.working, named }"
    :aria-label="name"
    :style="{ height: `${height}px` }"
  >
    <RowLabel
      :row="row"
      :name="name"
      :named="named"
      :own="own"
      :now="person ? now : null"
      @load="at => emit('load', at)"
    />
    <div role="gridcell" class="contents">
      <div
        class="head"
        role="group"
        :aria-label="`${name}, no hour`"
        data-drop="day"
        :data-date="row.date"
        :data-row="rowKey"
        :class="{ target: landing?.kind === 'day' }"
      >
        <TaskLine
          v-for="item in row.head"
          :key="item.key"
          :item="item"
          :sources="sources"
          :part="dayOfWords(dayOfSeveral(item, row.date))"
          :lifted="isLifted(item.key)"
          @toggle="emit('toggle', item)"
          @menu="at => emit('menu', item, at)"
        />
        <TaskLine
          v-for="b in besides"
          :key="`beside ${b.item.key}`"
          :item="b.item"
          :sources="sources"
          :hour="minuteWords(b.from)"
          :lifted="isLifted(b.item.key)"
          @toggle="emit('toggle', b.item)"
          @menu="at => emit('menu', b.item, at)"
        />
        <span v-if="landing?.kind === 'day'" class="note" :class="{ over: landing.over }"
          >no hour · {{ landing.load }}</span
        >
      </div>
    </div>
    <div role="gridcell" class="contents">
      <div
        class="track"
        role="group"
        :aria-label="`${name}, hours`"
        data-drop="hour"
        :data-date="row.date"
        :data-row="rowKey"
      >
        <div v-for="(o, i) in off" :key="i" class="off" :style="o" />
        <span
          v-for="d in dueMarks"
          :key="`due ${d.item.key}`"
          class="dueMark"
          :style="{ left: share(d.minute - axis.from) }"
          :title="`Due ${minuteWords(d.minute)}: ${d.item.title}`"
          ><span class="visually-hidden">{{ d.item.title }} is due {{ minuteWords(d.minute) }}</span></span
        >
        <OfferedMark v-for="o in offered" :key="o.key" :span="o" :axis="axis" />
        <WindowHem
          v-for="h in hems"
          :key="`${h.id} ${h.from}`"
          :hem="h"
          :axis="axis"
          @open="emit('window', h.id)"
        />
        <div class="lanes" :style="{ bottom: `${hem}px` }">
          <ClothBlock
            v-for="b in onAxis"
            :key="b.item.key"
            :block="b"
            :axis="axis"
            :lines="linesIn(b.lanes)"
            :minute-width="minuteWidth"
            :sources="sources"
            :day="name"
            :lifted="isLifted(b.item.key)"
            :clash="clashed.has(b.item.key)"
            :taking="held?.target?.kind === 'batch' && held.target.key === b.item.key"
            :data-from="b.from"
            :data-to="b.to"
            @toggle="emit('toggle', b.item)"
            @menu="at => emit('menu', b.item, at)"
            @tick="(key, done) => emit('tick', key, done)"
          />
        </div>
        <div
          v-if="landing?.kind === 'hour'"
          class="landing"
          :style="{ left: landing.left, width: landing.width }"
        >
          <span class="note" :class="{ over: landing.over }">{{ landing.span }} · {{ landing.load }}</span>
        </div>
        <div
          v-if="now !== null && now >= axis.from && now <= axis.to"
          class="now"
          :style="{ left: share(now - axis.from) }"
        >
          <span class="visually-hidden">Now, {{ minuteWords(now) }}</span>
        </div>
      </div>
    </div>
  </div>
</template>

<style scoped>
.contents {
  display: contents;
}
.row {
  display: grid;
  grid-template-columns: var(--label) var(--head) minmax(0, 1fr);
  border-top: 1px solid var(--warp);
}
.head {
  border-right: 1px solid var(--warp);
  padding: 5px 6px;
  display: grid;
  align-content: start;
  gap: 2px;
  position: relative;
  min-width: 0;
}
.head.target {
  background: var(--amber-wash);
  outline: 2px solid var(--amber);
  outline-offset: -2px;
}
/* What moves in one row asks no other to be laid out: half of the frames that were dropped under a hand were that. */
.track {
  contain: layout;
  position: relative;
  min-width: 0;
  background: repeating-linear-gradient(90deg, var(--warp) 0 1px, transparent 1px var(--hour));
  background-position: -1px 0;
}
/* Above the hems of work windows. */
.lanes {
  position: absolute;
  inset: 0;
}
.off {
  position: absolute;
  inset: 0 auto;
  background: var(--idle);
  opacity: 0.75;
  pointer-events: none;
}
.idle .head {
  background: var(--idle);
}
.now {
  position: absolute;
  inset-block: 0;
  width: 2px;
  margin-left: -1px;
  background: var(--amber);
  pointer-events: none;
  z-index: 4;
}
/* Of several rows that share the moment, one bears its mark. */
.row.named:not(.today) .now {
  width: 1px;
  margin-left: 0;
}
.row.named:not(.today) .now::before {
  display: none;
}
.now::before {
  content: '';
  position: absolute;
  left: -4px;
  top: 0;
  border: 5px solid transparent;
  border-top-color: var(--amber);
  border-bottom: 0;
}
/* Due at this hour: a hem that the work must not run over. */
.dueMark {
  position: absolute;
  inset-block: 0;
  width: 0;
  border-left: 2px dashed var(--clay);
  z-index: 3;
}
.dueMark::after {
  content: '';
  position: absolute;
  left: -6px;
  bottom: 0;
  border: 5px solid transparent;
  border-bottom-color: var(--clay);
  border-top: 0;
}
.landing {
  position: absolute;
  inset-block: 2px;
  background: var(--amber-wash);
  border: 2px solid var(--amber);
  border-radius: 3px;
  box-sizing: border-box;
  opacity: 0.9;
  pointer-events: none;
  z-index: 5;
}
.note {
  position: absolute;
  left: 3px;
  bottom: 2px;
  white-space: nowrap;
  font-size: 12px;
  background: var(--band);
  color: var(--band-ink);
  padding: 1px 6px;
  border-radius: 2px;
  z-index: 6;
}
.note.over {
  background: var(--clay);
  color: var(--cloth);
}
</style>
