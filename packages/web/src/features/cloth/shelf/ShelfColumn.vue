<script setup lang="ts">
import { PhArrowLeft, PhArrowRight, PhEyeSlash } from '@phosphor-icons/vue'
import { type ClothItem, putBeside, type ShelfGroup, type ViewBody } from '@loom/core/view'
import { computed } from 'vue'
import type { Held } from '../drag/drag.ts'
import type { ShelfLines } from '../data/drawn-lines.ts'
import type { Source } from '../data/signs.ts'
import TaskLine from './TaskLine.vue'

/** One group of the shelf. */
const props = defineProps<{
  group: ShelfGroup
  first: boolean
  last: boolean
  lines: ShelfLines
  view: ViewBody
  sources: readonly Source[]
  held: Held | null
}>()
const emit = defineEmits<{
  toggle: [item: ClothItem]
  menu: [item: ClothItem, at: DOMRect]
  set: [patch: Partial<ViewBody>]
  /** The whole group is picked up, or let go of. */
  carry: []
  letGo: []
  shift: [by: 1 | -1]
}>()

const keys = computed(() => props.group.items.map(i => i.item.key))
const drawn = computed(() => props.lines.of(props.group))
const more = computed(() => props.group.items.length - drawn.value.length)

function hide(): void {
  emit('set', { hiddenGroups: [...props.view.hiddenGroups, props.group.key] })
}
/** An item goes one place up or down in an order of its own. */
function onKey(event: KeyboardEvent, key: string): void {
  if (props.view.sort !== 'own' || !event.altKey) return
  if (event.key !== 'ArrowUp' && event.key !== 'ArrowDown') return
  event.preventDefault()
  event.stopPropagation()
  const after = event.key === 'ArrowDown'
  const other = keys.value[keys.value.indexOf(key) + (after ? 1 : -1)]
  if (other) emit('set', { order: putBeside(props.view.order, keys.value, key, { key: other, after }) })
}
/** Where a held card would go in an order of one's own. */
const gap = computed(() => {
  const { held, view } = props
  if (view.sort !== 'own' || held?.target?.kind !== 'shelf' || held.item.place.kind !== 'none') return null
  return keys.value.includes(held.item.key) ? held.target.beside : null
})
</script>

<template>
  <div class="column" role="group" :aria-label="group.title">
    <h3
      draggable="true"
      title="Drag to another place"
      :class="{ late: group.key === 'overdue' && group.items.length > 0 }"
      @dragstart="emit('carry')"
      @dragend="emit('letGo')"
    >
      <span class="name">{{ group.title }}</span>
      <b>{{ group.items.length }}</b>
      <span class="tools">
        <button
          v-if="!first"
          type="button"
          class="plain"
          :aria-label="`${group.title}: further left`"
          @click="emit('shift', -1)"
        >
          <PhArrowLeft :size="12" />
        </button>
        <button
          v-if="!last"
          type="button"
          class="plain"
          :aria-label="`${group.title}: further right`"
          @click="emit('shift', 1)"
        >
          <PhArrowRight :size="12" />
        </button>
        <button type="button" class="plain" :aria-label="`Hide ${group.title}`" @click="hide">
          <PhEyeSlash :size="13" />
        </button>
      </span>
    </h3>
    <TaskLine
      v-for="{ item, pressure, reasons, leftOver } in drawn"
      :key="item.key"
      :item="item"
      :sources="sources"
      :pressure="pressure"
      :reasons="reasons"
      :left-over="leftOver"
      :class="{
        gapBefore: gap?.key === item.key && !gap.after,
        gapAfter: gap?.key === item.key && gap.after,
      }"
      :lifted="held?.item.key === item.key && !held.copying"
      @toggle="emit('toggle', item)"
      @menu="at => emit('menu', item, at)"
      @keydown.capture="onKey($event, item.key)"
    />
    <button v-if="more > 0" type="button" class="plain more" @click="lines.more(group)">
      {{ more }} more<span class="visually-hidden"> under {{ group.title }}</span>
    </button>
  </div>
</template>

<style scoped>
.column {
  display: grid;
  /* The longest line is cut, and widens nothing. */
  grid-template-columns: minmax(0, 1fr);
  gap: 4px;
  align-content: start;
  border-top: 3px solid var(--warp);
  padding-top: 5px;
  min-width: 0;
}
/* Another group would go here. */
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
h3 {
  cursor: grab;
  position: relative;
  display: flex;
  gap: 4px;
  font:
    600 12.5px 'Atkinson Hyperlegible Next Variable',
    sans-serif;
  color: var(--husk);
  min-height: 20px;
}
h3 b {
  color: var(--peat);
}
h3.late,
h3.late b {
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
/* Over the name while one points at it, so that it takes no room from it. */
.tools {
  position: absolute;
  inset: 0 0 auto auto;
  background: var(--linen);
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
@media (max-width: 480px) {
  .tools {
    opacity: 1;
  }
}
</style>
