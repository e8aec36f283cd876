<script setup lang="ts">
import { PhArrowLeft, PhArrowRight, PhEyeSlash } from '@phosphor-icons/vue'
import {
  type ClothItem,
  durationWords,
  GROUPS,
  putBeside,
  type ShelfGroup,
  SORTS,
  type ViewBody,
} from '@loom/core/view'
import { computed, ref } from 'vue'
import SentenceChoice from '../../app/SentenceChoice.vue'
import type { Held } from './drag.ts'
import type { ShelfLines } from './drawn-lines.ts'
import type { Source } from './signs.ts'
import TaskLine from './TaskLine.vue'

const props = defineProps<{
  groups: ShelfGroup[]
  lines: ShelfLines
  /** How many more tasks there are than the shelf holds. */
  beyond: number
  view: ViewBody
  sources: readonly Source[]
  held: Held | null
  /** How many tasks are put by or left out. */
  away: number
  nameOf: (id: string) => string
}>()
const emit = defineEmits<{
  toggle: [item: ClothItem]
  menu: [item: ClothItem, at: DOMRect]
  set: [patch: Partial<ViewBody>]
  away: []
}>()

const GROUP_WORDS: Record<ViewBody['group'], string> = {
  due: 'when due',
  list: 'list',
  status: 'status',
  priority: 'priority',
  person: 'person',
  category: 'category',
  none: 'nothing',
}
const SORT_WORDS: Record<ViewBody['sort'], string> = {
  pressure: 'what presses most first',
  due: 'by due date',
  priority: 'by priority',
  estimate: 'the shortest first',
  title: 'by title',
  own: 'in my own order',
}
const groupOptions = GROUPS.map(value => ({ value, label: GROUP_WORDS[value] }))
const sortOptions = SORTS.map(value => ({ value, label: SORT_WORDS[value] }))
const KEEP = [
  { value: false, label: 'without those' },
  { value: true, label: 'with those' },
]

const shown = computed(() => props.groups.filter(g => !props.view.hiddenGroups.includes(g.key)))
const hidden = computed(() => props.groups.filter(g => props.view.hiddenGroups.includes(g.key)))
const total = computed(() => {
  const items = new Set(props.groups.flatMap(g => g.items.map(i => i.item.key)))
  const minutes =
    props.view.group === 'person' || props.view.group === 'category'
      ? null
      : props.groups.reduce((n, g) => n + g.minutes, 0)
  return { count: items.size, minutes }
})
const landing = computed(() => props.held?.target?.kind === 'shelf' && props.held.item.place.kind !== 'none')

/** A group goes one place to the left or right; from then on the order is somebody's own. */
function shift(key: string, by: 1 | -1): void {
  const keys = shown.value.map(g => g.key)
  const at = keys.indexOf(key)
  const to = at + by
  if (to < 0 || to >= keys.length) return
  keys.splice(at, 1)
  keys.splice(to, 0, key)
  emit('set', { groupOrder: keys })
}
function hide(key: string): void {
  emit('set', { hiddenGroups: [...props.view.hiddenGroups, key] })
}
/** An item goes one place up or down in an order of its own. */
function reorder(group: ShelfGroup, key: string, by: 1 | -1): void {
  const keys = group.items.map(i => i.item.key)
  const other = keys[keys.indexOf(key) + by]
  if (other) emit('set', { order: putBeside(props.view.order, keys, key, { key: other, after: by === 1 }) })
}
/** Where a held card would go in an order of one's own. */
const gap = computed(() => {
  const { held, view } = props
  if (view.sort !== 'own' || held?.target?.kind !== 'shelf' || held.item.place.kind !== 'none') return null
  const { beside } = held.target
  const group = props.groups.find(g => g.items.some(i => i.item.key === held.item.key))
  return group?.items.some(i => i.item.key === beside?.key) ? beside : null
})

/** A whole group can be dragged by its name. */
const carried = ref<string | null>(null)
const over = ref<string | null>(null)
function putGroup(): void {
  const keys = shown.value.map(g => g.key)
  const [from, to] = [carried.value, over.value]
  carried.value = null
  over.value = null
  if (from === null || to === null || from === to) return
  const after = keys.indexOf(from) < keys.indexOf(to)
  emit('set', { groupOrder: putBeside(keys, keys, from, { key: to, after }) })
}
function onKey(event: KeyboardEvent, group: ShelfGroup, key: string): void {
  if (props.view.sort !== 'own' || !event.altKey) return
  if (event.key !== 'ArrowUp' && event.key !== 'ArrowDown') return
  event.preventDefault()
  event.stopPropagation()
  reorder(group, key, event.key === 'ArrowUp' ? -1 : 1)
}
</script>

<template>
  <section class="shelf" data-drop="shelf" aria-labelledby="shelf-title" :class="{ landing }">
    <div class="top">
      <h2 id="shelf-title">Shelf</h2>
      <span class="quiet">
        <template v-if="landing">Let go to take its time away; its due date stays.</template>
        <template v-else-if="total.count === 0"
          >Everything has a place in time. Drag something here to take its time away.</template
        >
        <template v-else
          >{{ total.count }} tasks without a time<template v-if="total.minutes !== null">
            · about {{ durationWords(total.minutes) }}</template
          ><template v-if="beyond > 0"
            >; {{ beyond }} more are due later or never, and found by searching</template
          ></template
        >
      </span>
      <span class="spacer" />
      <span class="say quiet"
        >By
        <SentenceChoice
          :model-value="view.group"
          :options="groupOptions"
          name="Group by"
          @update:model-value="group => emit('set', { group, groupOrder: [], hiddenGroups: [] })"
        />,
        <SentenceChoice
          :model-value="view.sort"
          :options="sortOptions"
          name="Sort"
          @update:model-value="sort => emit('set', { sort })"
        />,
        <SentenceChoice
          :model-value="view.keepPlaced"
          :options="KEEP"
          name="Tasks that have a time"
          @update:model-value="keepPlaced => emit('set', { keepPlaced })"
        />
        that have a time
      </span>
      <button v-if="away > 0" type="button" class="plain away" @click="emit('away')">
        {{ away }} put by
      </button>
    </div>
    <div class="columns" :style="{ '--columns': Math.max(1, Math.min(5, shown.length)) }">
      <div
        v-for="(g, n) in shown"
        :key="g.key"
        class="column"
        :class="{ over: carried !== null && carried !== g.key && over === g.key }"
        role="group"
        :aria-label="g.title"
        @dragover="carried !== null && ($event.preventDefault(), (over = g.key))"
        @drop.prevent="putGroup"
      >
        <h3
          draggable="true"
          title="Drag to another place"
          @dragstart="carried = g.key"
          @dragend="((carried = null), (over = null))"
          :class="{ late: g.key === 'overdue' && g.items.length > 0 }"
        >
          <span class="name"
            >{{ g.title }} <b>{{ g.items.length }}</b></span
          >
          <span class="tools">
            <button
              v-if="n > 0"
              type="button"
              class="plain"
              :aria-label="`${g.title}: further left`"
              @click="shift(g.key, -1)"
            >
              <PhArrowLeft :size="12" />
            </button>
            <button
              v-if="n < shown.length - 1"
              type="button"
              class="plain"
              :aria-label="`${g.title}: further right`"
              @click="shift(g.key, 1)"
            >
              <PhArrowRight :size="12" />
            </button>
            <button type="button" class="plain" :aria-label="`Hide ${g.title}`" @click="hide(g.key)">
              <PhEyeSlash :size="13" />
            </button>
          </span>
        </h3>
        <TaskLine
          v-for="{ item, pressure, reasons, leftOver } in lines.of(g)"
          :key="item.key"
          :item="item"
          :sources="sources"
          :pressure="pressure"
          :reasons="reasons"
          :left-over="leftOver"
          :shows="view.shows"
          :people="item.people.map(nameOf)"
          :class="{
            gapBefore: gap?.key === item.key && !gap.after,
            gapAfter: gap?.key === item.key && gap.after,
          }"
          :lifted="held?.item.key === item.key && !held.copying"
          @toggle="emit('toggle', item)"
          @menu="at => emit('menu', item, at)"
          @keydown.capture="onKey($event, g, item.key)"
        />
        <button
          v-if="lines.of(g).length < g.items.length"
          type="button"
          class="plain more"
          @click="lines.more(g)"
        >
          {{ g.items.length - lines.of(g).length }} more<span class="visually-hidden">
            under {{ g.title }}</span
          >
        </button>
      </div>
    </div>
    <p v-if="hidden.length > 0" class="hidden quiet">
      Hidden:
      <button
        v-for="g in hidden"
        :key="g.key"
        type="button"
        class="plain show"
        :aria-label="`Show ${g.title} again`"
        @click="emit('set', { hiddenGroups: view.hiddenGroups.filter(k => k !== g.key) })"
      >
        {{ g.title }} ({{ g.items.length }})
      </button>
    </p>
  </section>
</template>

<style scoped>
.shelf {
  margin-top: 12px;
  padding-bottom: 8px;
  border-radius: 3px;
}
.landing {
  background: var(--amber-wash);
  outline: 2px solid var(--amber);
}
.top {
  display: flex;
  align-items: baseline;
  flex-wrap: wrap;
  gap: 2px 12px;
  margin-bottom: 6px;
}
.spacer {
  flex: 1;
}
.say :deep(button) {
  color: var(--peat);
}
.away {
  color: var(--amber);
  text-decoration: underline;
}
.columns {
  display: grid;
  grid-template-columns: repeat(var(--columns), minmax(0, 1fr));
  gap: 10px;
}
.column {
  display: grid;
  gap: 4px;
  align-content: start;
  border-top: 3px solid var(--warp);
  padding-top: 5px;
  min-width: 0;
}
.column.over {
  border-top-color: var(--amber);
  background: var(--amber-wash);
}
.gapBefore {
  box-shadow: 0 -4px 0 -1px var(--amber);
}
.gapAfter {
  box-shadow: 0 4px 0 -1px var(--amber);
}
.column h3 {
  cursor: grab;
  display: flex;
  justify-content: space-between;
  font:
    600 12.5px 'Atkinson Hyperlegible Next Variable',
    sans-serif;
  color: var(--husk);
  min-height: 20px;
}
.column h3 b {
  color: var(--peat);
  margin-left: 4px;
}
.column h3.late,
.column h3.late b {
  color: var(--clay);
}
.more {
  padding: 5px 8px;
  text-align: left;
  color: var(--amber);
  text-decoration: underline;
}
.name {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.tools {
  display: flex;
  gap: 2px;
  opacity: 0;
}
.tools button {
  display: grid;
  place-items: center;
  width: 20px;
  height: 20px;
}
.column:hover .tools,
.tools:focus-within {
  opacity: 1;
}
.hidden {
  margin: 8px 0 0;
}
.show {
  text-decoration: underline;
  margin-right: 8px;
}
@media (max-width: 900px) {
  .columns {
    grid-template-columns: repeat(2, minmax(0, 1fr));
  }
}
@media (max-width: 480px) {
  .columns {
    grid-template-columns: 1fr;
  }
  .tools {
    opacity: 1;
  }
}
</style>
