<script setup lang="ts">
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
import SentenceChoice from '../../../ui/SentenceChoice.vue'
import type { Held } from '../drag/drag.ts'
import type { ShelfLines } from '../data/drawn-lines.ts'
import ShelfColumn from './ShelfColumn.vue'
import type { Source } from '../data/signs.ts'

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

/** `from` goes to where `to` is; from then on the order of groups is somebody's own. */
function putGroup(from: string, to: string | undefined): void {
  const keys = shown.value.map(g => g.key)
  if (to === undefined || from === to) return
  const after = keys.indexOf(from) < keys.indexOf(to)
  emit('set', { groupOrder: putBeside(keys, keys, from, { key: to, after }) })
}
/** A whole group can be dragged by its name. */
const carried = ref<string | null>(null)
const over = ref<string | null>(null)
function dropGroup(): void {
  if (carried.value !== null && over.value !== null) putGroup(carried.value, over.value)
  carried.value = null
  over.value = null
}
</script>

<template>
  <section
    class="shelf"
    data-area="shelf"
    data-drop="shelf"
    aria-labelledby="shelf-title"
    :class="{ landing }"
  >
    <div class="top">
      <h2 id="shelf-title">Shelf</h2>
      <span class="quiet">
        <template v-if="landing">Drop here to remove its time; its due date stays.</template>
        <template v-else-if="total.count === 0"
          >Everything has a place in time. Drag something here to take its time away.</template
        >
        <template v-else
          >{{ total.count }} {{ total.count === 1 ? 'task' : 'tasks' }} without a time<template
            v-if="total.minutes !== null"
          >
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
      <ShelfColumn
        v-for="(g, n) in shown"
        :key="g.key"
        :group="g"
        :first="n === 0"
        :last="n === shown.length - 1"
        :lines="lines"
        :view="view"
        :sources="sources"
        :held="held"
        :class="{ over: carried !== null && carried !== g.key && over === g.key }"
        @dragover="carried !== null && ($event.preventDefault(), (over = g.key))"
        @drop.prevent="dropGroup"
        @carry="carried = g.key"
        @let-go="((carried = null), (over = null))"
        @shift="by => putGroup(g.key, shown[n + by]?.key)"
        @toggle="item => emit('toggle', item)"
        @menu="(item, at) => emit('menu', item, at)"
        @set="patch => emit('set', patch)"
      />
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
}
</style>
