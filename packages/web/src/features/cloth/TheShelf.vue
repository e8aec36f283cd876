<script setup lang="ts">
import { type ClothItem, durationWords, type ShelfGroup } from '@loom/core/view'
import { computed } from 'vue'
import type { Held } from './drag.ts'
import type { Source } from './signs.ts'
import TaskLine from './TaskLine.vue'

const props = defineProps<{ groups: ShelfGroup[]; sources: readonly Source[]; held: Held | null }>()
const emit = defineEmits<{ toggle: [item: ClothItem]; menu: [item: ClothItem, at: DOMRect] }>()

const total = computed(() => ({
  count: props.groups.reduce((n, g) => n + g.items.length, 0),
  minutes: props.groups.reduce((n, g) => n + g.minutes, 0),
}))
const landing = computed(() => props.held?.target?.kind === 'shelf' && props.held.item.place.kind !== 'none')
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
          >{{ total.count }} tasks without a time · about {{ durationWords(total.minutes) }}</template
        >
      </span>
    </div>
    <div class="columns">
      <div v-for="g in groups" :key="g.key" class="column" role="group" :aria-label="g.title">
        <h3 :class="{ late: g.key === 'overdue' && g.items.length > 0 }">
          {{ g.title }} <b>{{ g.items.length }}</b>
        </h3>
        <TaskLine
          v-for="{ item, pressure } in g.items"
          :key="item.key"
          :item="item"
          :sources="sources"
          :pressure="pressure"
          :lifted="held?.item.key === item.key"
          @toggle="emit('toggle', item)"
          @menu="at => emit('menu', item, at)"
        />
      </div>
    </div>
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
  gap: 12px;
  margin-bottom: 6px;
}
.columns {
  display: grid;
  grid-template-columns: repeat(4, minmax(0, 1fr));
  gap: 10px;
}
.column {
  display: grid;
  gap: 4px;
  align-content: start;
  border-top: 3px solid var(--warp);
  padding-top: 5px;
}
.column h3 {
  font:
    600 12.5px 'Atkinson Hyperlegible Next Variable',
    sans-serif;
  color: var(--husk);
}
.column h3 b {
  color: var(--peat);
  margin-left: 4px;
}
.column h3.late,
.column h3.late b {
  color: var(--clay);
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
