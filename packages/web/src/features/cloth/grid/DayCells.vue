<script setup lang="ts">
import { clockWords } from '../../../ui/telling.ts'
import {
  type Bar,
  type CellRow,
  type ClothItem,
  type DayCell,
  dayWords,
  durationWords,
  longDayWords,
  mondayOf,
} from '@loom/core/view'
import { useWindowSize } from '@vueuse/core'
import { computed } from 'vue'
import { fittingLines } from '../data/fitting-lines.ts'
import type { Held } from '../drag/drag.ts'
import LoadThreads from './LoadThreads.vue'
import type { Source } from '../data/signs.ts'
import TaskLine from '../shelf/TaskLine.vue'

/** Days from left to right, a cell each: the weeks of a month, or some days of each person or source. */
const props = defineProps<{
  rows: CellRow[]
  /** The name of the whole. */
  heading: string
  /** The month that is looked at, where rows are its weeks. */
  month: string | null
  zone: string
  sources: readonly Source[]
  held: Held | null
}>()
const emit = defineEmits<{
  toggle: [item: ClothItem]
  menu: [item: ClothItem, at: DOMRect]
  day: [date: string]
}>()

const { height } = useWindowSize()
/** Above the rows, in px; and of each row beside its entries. */
const HEAD = 172
const OF_ROW = 34
const OF_ENTRY = 21
const fitting = computed(() => {
  const needs = props.rows.map(row => Math.max(0, ...row.cells.map(c => entriesOf(row, c).length)))
  const bars = props.rows.map(row => Math.max(0, ...row.cells.map((_, column) => barHeight(row, column))))
  const fixed = bars.reduce((sum, px) => sum + px + OF_ROW, HEAD)
  const room = (height.value - fixed) / OF_ENTRY
  const lines = fittingLines(needs, Math.floor(room), props.month ? 4 : 7)
  return new Map(props.rows.map((row, i) => [row.key, lines[i] ?? 0]))
})
const mostOf = (row: CellRow): number => fitting.value.get(row.key) ?? 4
/** A line that says "1 more" takes as much room as the one it stands for. */
const shownOf = (row: CellRow, cell: DayCell): ClothItem[] => {
  const all = entriesOf(row, cell)
  return all.length <= mostOf(row) + 1 ? all : all.slice(0, mostOf(row))
}
const hiddenOf = (row: CellRow, cell: DayCell): number =>
  entriesOf(row, cell).length - shownOf(row, cell).length
const heads = computed(() => props.rows[0]?.cells.map(c => c.date) ?? [])
const columns = computed(() => heads.value.length)
const headWords = (date: string): string =>
  props.month ? (dayWords(date).split(' ')[0] ?? '') : dayWords(date).replace(/ \w+$/, '')
const dayNumber = (date: string): string =>
  date.endsWith('-01') ? dayWords(date).split(' ').slice(1).join(' ') : String(Number(date.slice(8)))
const isTarget = (row: CellRow, cell: DayCell): boolean => {
  const target = props.held?.target
  return target?.kind === 'day' && target.date === cell.date && target.row === (props.month ? 'all' : row.key)
}
const columnAt = (n: number): string => `(var(--label) + (100% - var(--label)) * ${n} / ${columns.value})`
const GAP = 5
const barStyle = (bar: Bar): Record<string, string> => {
  const before = bar.clipped.start ? 0 : GAP
  const after = bar.clipped.end ? 0 : GAP
  return {
    left: `calc(${columnAt(bar.from)} + ${before}px)`,
    width: `calc(${columnAt(bar.to)} - ${columnAt(bar.from)} - ${before + after}px)`,
    top: `${26 + bar.lane * 22}px`,
  }
}
const barHeight = (row: CellRow, column: number): number =>
  22 * Math.max(0, ...row.bars.filter(b => b.from <= column && column < b.to).map(b => b.lane + 1))
const barName = (row: CellRow, bar: Bar): string => {
  const day = (column: number): string => longDayWords(row.cells[column]?.date ?? '1970-01-01')
  return `${day(bar.from)} to ${day(bar.to - 1)}`
}
/** What a bar shows is not listed in its cells once more. */
const entriesOf = (row: CellRow, cell: DayCell): ClothItem[] =>
  cell.entries.filter(i => !row.bars.some(b => b.item.key === i.key))
const hourOf = (item: ClothItem): string | undefined =>
  item.place.kind === 'timed' ? clockWords(item.place.startMs, props.zone) : undefined
/** Where another day of the week makes the row taller, a title may take a second line. */
const isRoomy = (row: CellRow, cell: DayCell): boolean => {
  const tallest = Math.max(...row.cells.map(c => Math.min(mostOf(row), entriesOf(row, c).length)))
  return entriesOf(row, cell).length * 2 <= tallest
}
const loadWords = ({ load }: DayCell): string =>
  load.capacity === 0
    ? durationWords(load.committed)
    : `${durationWords(load.committed)} of ${durationWords(load.capacity)}`
</script>

<template>
  <div class="sheet cells" role="grid" :aria-label="heading" :style="{ '--n': columns }" :class="{ month }">
    <div class="heads" role="row">
      <span role="columnheader"
        ><span class="visually-hidden">{{ month ? 'Week' : 'Whose' }}</span></span
      >
      <span v-for="date in heads" :key="date" role="columnheader">{{ headWords(date) }}</span>
    </div>
    <div
      v-for="row in rows"
      :key="row.key"
      class="row"
      role="row"
      :aria-label="month ? `Week ${row.title}` : row.title"
    >
      <div
        class="label"
        role="rowheader"
        data-drop="week"
        :data-date="mondayOf(row.cells[0]?.date ?? '1970-01-01')"
      >
        <h2>{{ row.title }}</h2>
      </div>
      <div v-for="(cell, column) in row.cells" :key="cell.date" role="gridcell" class="contents">
        <div
          class="cell"
          role="group"
          :aria-label="`${row.title}, ${longDayWords(cell.date)}, ${loadWords(cell)}`"
          :class="{
            idle: !cell.working,
            today: cell.today,
            other: month && !cell.date.startsWith(month),
            target: isTarget(row, cell),
          }"
          data-drop="day"
          :data-date="cell.date"
          :data-row="month ? 'all' : row.key"
        >
          <div class="top">
            <button v-if="month" type="button" class="plain date" @click="emit('day', cell.date)">
              {{ dayNumber(cell.date)
              }}<span class="visually-hidden">: open {{ longDayWords(cell.date) }}</span>
            </button>
            <LoadThreads class="load" :load="cell.load" small />
          </div>
          <div v-if="barHeight(row, column) > 0" :style="{ height: `${barHeight(row, column)}px` }" />
          <TaskLine
            v-for="item in shownOf(row, cell)"
            :key="item.key"
            :item="item"
            :sources="sources"
            :hour="hourOf(item)"
            :class="{ roomy: isRoomy(row, cell) }"
            :lifted="held?.item.key === item.key && !held.copying"
            @toggle="emit('toggle', item)"
            @menu="at => emit('menu', item, at)"
          />
          <button
            v-if="hiddenOf(row, cell) > 0"
            type="button"
            class="plain more"
            :aria-label="`${hiddenOf(row, cell)} more on ${longDayWords(cell.date)}`"
            @click="emit('day', cell.date)"
          >
            {{ hiddenOf(row, cell) }} more
          </button>
        </div>
      </div>
      <div v-if="row.bars.length > 0" role="gridcell" class="contents">
        <TaskLine
          v-for="bar in row.bars"
          :key="bar.item.key"
          class="bar"
          :class="{ clipStart: bar.clipped.start, clipEnd: bar.clipped.end }"
          :style="barStyle(bar)"
          :item="bar.item"
          :sources="sources"
          :part="barName(row, bar)"
          :lifted="held?.item.key === bar.item.key && !held.copying"
          @toggle="emit('toggle', bar.item)"
          @menu="at => emit('menu', bar.item, at)"
        />
      </div>
    </div>
  </div>
</template>

<style scoped>
.cells {
  overflow-x: auto;
}
.heads,
.row {
  display: grid;
  --label: 116px;
  grid-template-columns: var(--label) repeat(var(--n), minmax(112px, 1fr));
}
.month .heads,
.month .row {
  --label: 64px;
  grid-template-columns: var(--label) repeat(7, minmax(96px, 1fr));
}
.heads {
  font-size: 12px;
  color: var(--husk);
  height: 22px;
  line-height: 22px;
}
.heads span {
  padding-left: 8px;
}
.row {
  position: relative;
  border-top: 1px solid var(--warp);
  min-width: min-content;
}
.contents {
  display: contents;
}
/* What lies on several days runs over their cells; a torn edge says that it goes on. */
.bar {
  position: absolute;
  height: 20px;
  box-sizing: border-box;
}
.bar :deep(.facts) {
  display: none;
}
.clipEnd {
  border-top-right-radius: 0;
  border-bottom-right-radius: 0;
  clip-path: polygon(0 0, 100% 0, calc(100% - 5px) 25%, 100% 50%, calc(100% - 5px) 75%, 100% 100%, 0 100%);
}
.clipStart::before {
  display: none;
}
.label {
  padding: 6px 10px;
}
.label h2 {
  font-size: 14px;
}
.cell {
  border-left: 1px solid var(--warp);
  padding: 4px 5px 6px;
  min-height: 62px;
  min-width: 0;
  display: grid;
  align-content: start;
  gap: 2px;
}
.month .cell {
  min-height: 92px;
}
.idle {
  background: var(--idle);
}
.other {
  background: var(--linen);
}
.other .date {
  color: var(--husk);
  font-weight: 400;
}
.today {
  box-shadow: inset 0 3px 0 var(--amber);
}
.target {
  background: var(--amber-wash);
  outline: 2px solid var(--amber);
  outline-offset: -2px;
}
.top {
  display: flex;
  align-items: center;
  gap: 8px;
  min-height: 18px;
}
.load {
  min-width: 0;
  overflow: hidden;
  white-space: nowrap;
}
.date {
  font-weight: 700;
  padding: 0 3px;
}
.date:hover,
.more:hover {
  text-decoration: underline;
}
.more {
  justify-self: start;
  font-size: 12px;
  color: var(--husk);
  padding-left: 6px;
}
/* A second line, where there is room for it. */
.roomy :deep(.title) {
  white-space: normal;
  display: -webkit-box;
  -webkit-box-orient: vertical;
  -webkit-line-clamp: 2;
}
.cell :deep(.line) {
  gap: 5px;
}
.cell :deep(.facts) {
  font-size: 11.5px;
  letter-spacing: -0.02em;
}
</style>
