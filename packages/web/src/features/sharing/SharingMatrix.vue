<script setup lang="ts">
import { type Level, LEVELS } from '@loom/core/view'
import { computed, nextTick, ref, useTemplateRef } from 'vue'
import LevelSwatch from './LevelSwatch.vue'
import {
  becauseWords,
  type Cell,
  cellKey,
  type Column,
  columnsOf,
  grantOf,
  levelIn,
  levelWords,
  type Said,
  saidOf,
  type SharedList,
  type Told,
} from './sharing.ts'

/**
 * Rows: what one owns or looks after. Columns: who looks. One cell at a time has the focus; with Shift, several are
 * chosen; 0 to 4 says their level.
 */
const props = defineProps<{ told: Told; changed: ReadonlyMap<string, Said> }>()
const chosen = defineModel<Cell[]>('chosen', { required: true })
const emit = defineEmits<{ level: [level: Level | null] }>()

const columns = computed(() => columnsOf(props.told))
const at = ref({ row: 0, column: 0 })
const from = ref({ row: 0, column: 0 })
const table = useTemplateRef<HTMLElement>('table')

const shownLevel = (list: SharedList, column: Column): Level => {
  const now = props.changed.get(cellKey({ list: list.id, column: column.key }))
  return now?.level ?? levelIn(list, column)
}
const passesOn = (list: SharedList, column: Column): boolean =>
  (props.changed.get(cellKey({ list: list.id, column: column.key })) ?? saidOf(list, column)).passOn
const isChanged = (list: SharedList, column: Column): boolean =>
  props.changed.has(cellKey({ list: list.id, column: column.key }))
const isChosen = (list: SharedList, column: Column): boolean =>
  chosen.value.some(c => c.list === list.id && c.column === column.key)
function named(list: SharedList, column: Column): string {
  const { to } = column
  const level = levelWords(shownLevel(list, column))
  const reached = to.kind === 'person' ? list.reached.find(r => r.person === to.id) : undefined
  const why = reached && !isChanged(list, column) ? `, ${becauseWords(props.told, reached.because)}` : ''
  const on = passesOn(list, column) ? ', and may pass it on' : ''
  return `${list.name}, ${column.name}: ${level}${on}${why}`
}

/** All cells of the rectangle from where choosing began to here. */
function chooseTo(row: number, column: number, isMore: boolean): void {
  if (!isMore) from.value = { row, column }
  at.value = { row, column }
  const [top, bottom] = [from.value.row, row].sort((x, y) => x - y)
  const [left, right] = [from.value.column, column].sort((x, y) => x - y)
  const lists = props.told.lists.slice(top, (bottom ?? 0) + 1)
  const across = columns.value.slice(left, (right ?? 0) + 1)
  chosen.value = lists.flatMap(l => across.map(c => ({ list: l.id, column: c.key })))
  void nextTick(() => table.value?.querySelector<HTMLElement>('[tabindex="0"]')?.focus())
}
const STEPS: Record<string, [row: number, column: number]> = {
  ArrowUp: [-1, 0],
  ArrowDown: [1, 0],
  ArrowLeft: [0, -1],
  ArrowRight: [0, 1],
}
function press(event: KeyboardEvent): void {
  const step = STEPS[event.key]
  const level = LEVELS[Number(event.key)]
  if (step) {
    event.preventDefault()
    const row = Math.min(props.told.lists.length - 1, Math.max(0, at.value.row + step[0]))
    const column = Math.min(columns.value.length - 1, Math.max(0, at.value.column + step[1]))
    chooseTo(row, column, event.shiftKey)
  } else if (/^[0-4]$/.test(event.key) && level) emit('level', level)
  else if (event.key === 'Backspace' || event.key === 'Delete') emit('level', null)
  else if (event.key === 'Enter' || event.key === ' ') {
    event.preventDefault()
    chooseTo(at.value.row, at.value.column, false)
  }
}
</script>

<template>
  <div class="sheet scroll">
    <table ref="table" role="grid" aria-label="Who sees what" aria-multiselectable="true">
      <thead>
        <tr>
          <th scope="col" colspan="2"><span class="quiet">What you own or look after</span></th>
          <th v-for="c in columns" :key="c.key" scope="col" class="who" :title="c.name">
            {{ c.to.kind === 'person' ? c.name.split(' ')[0] : c.name }}
            <span v-if="c.to.kind === 'group'" class="quiet">group</span>
            <span v-if="c.to.kind === 'link'" class="quiet">link</span>
          </th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="(l, row) in told.lists" :key="l.id">
          <td class="service quiet">
            {{ told.lists[row - 1]?.service === l.service ? '' : l.service }}
          </td>
          <th scope="row" class="list">
            <span class="dye" :style="{ background: l.dye }" aria-hidden="true" />
            <span
              ><RouterLink :to="`/lists/${l.id}`" class="name">{{ l.name }}</RouterLink>
              <span class="quiet">{{
                l.isMine ? ' · mine' : l.upTo ? ' · passed on to you' : ''
              }}</span></span
            >
          </th>
          <td
            v-for="(c, column) in columns"
            :key="c.key"
            role="gridcell"
            class="cell"
            :class="{ chosen: isChosen(l, c), changed: isChanged(l, c), passes: passesOn(l, c) }"
            :tabindex="at.row === row && at.column === column ? 0 : -1"
            :aria-selected="isChosen(l, c)"
            :aria-label="named(l, c)"
            :title="named(l, c)"
            @click="e => chooseTo(row, column, e.shiftKey)"
            @keydown="press"
          >
            <LevelSwatch
              :level="shownLevel(l, c)"
              :dye="l.dye"
              :faint="grantOf(l, c) === null && !isChanged(l, c)"
            />
          </td>
        </tr>
      </tbody>
    </table>
  </div>
</template>

<style scoped>
.name {
  color: inherit;
  text-decoration: none;
}
.name:hover {
  text-decoration: underline;
}
.scroll {
  overflow: auto;
  max-height: max(320px, calc(100vh - 196px));
}
table {
  border-collapse: separate;
  border-spacing: 0;
  width: 100%;
}
th {
  text-align: left;
  font-weight: 400;
}
thead th {
  position: sticky;
  top: 0;
  z-index: 1;
  background: var(--cloth);
  padding: 9px 8px;
  border-bottom: 1px solid var(--warp);
}
thead th:first-child {
  padding-left: 14px;
}
.who {
  text-align: center;
  min-width: 76px;
  max-width: 110px;
  overflow-wrap: break-word;
}
.who .quiet {
  display: block;
  font-size: 11.5px;
}
tbody tr > * {
  border-bottom: 1px solid var(--warp);
}
tbody tr:last-child > * {
  border-bottom: 0;
}
.service {
  padding: 7px 8px 7px 14px;
  font-size: 13px;
  max-width: 160px;
  overflow-wrap: break-word;
}
.list {
  padding: 7px 8px;
}
.dye {
  display: inline-block;
  width: 10px;
  height: 13px;
  margin-right: 8px;
  border-radius: 2px;
  vertical-align: -1px;
}
.cell {
  padding: 7px 6px;
  cursor: pointer;
}
.cell > :deep(.swatch) {
  margin: 0 auto;
}
.cell:focus-visible {
  outline: 2px solid var(--amber);
  outline-offset: -2px;
}
/* Whoever may pass it on: an arrow beside how much they see. */
.passes {
  position: relative;
}
.passes::after {
  content: '›';
  position: absolute;
  right: 1px;
  top: 50%;
  translate: 0 -52%;
  color: var(--husk);
}
.chosen {
  background: var(--amber-wash);
}
.changed > :deep(.swatch) {
  outline: 2px solid var(--amber);
  outline-offset: 1px;
}
</style>
