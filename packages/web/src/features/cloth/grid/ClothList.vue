<script setup lang="ts">
import { clockWords } from '../../../ui/telling.ts'
import {
  type CellRow,
  type ClothItem,
  dayOfSeveral,
  dayOfWords,
  durationWords,
  longDayWords,
} from '@loom/core/view'
import { computed } from 'vue'
import type { Held } from '../drag/drag.ts'
import LoadThreads from './LoadThreads.vue'
import type { Source } from '../data/signs.ts'
import TaskLine from '../shelf/TaskLine.vue'

/** Day after day as a list, for narrow screens and for reading through. */
const props = defineProps<{ rows: CellRow[]; zone: string; sources: readonly Source[]; held: Held | null }>()
const emit = defineEmits<{ toggle: [item: ClothItem]; menu: [item: ClothItem, at: DOMRect] }>()

const days = computed(() => props.rows[0]?.cells ?? [])
const hourOf = (item: ClothItem): string | undefined =>
  item.place.kind === 'timed'
    ? `${clockWords(item.place.startMs, props.zone)} · ${durationWords((item.place.endMs - item.place.startMs) / 60_000)}`
    : undefined
</script>

<template>
  <div class="sheet list">
    <section
      v-for="day in days"
      :key="day.date"
      :aria-label="longDayWords(day.date)"
      :class="{ today: day.today }"
    >
      <div class="label">
        <h2>{{ longDayWords(day.date) }}</h2>
        <LoadThreads :load="day.load" />
      </div>
      <div
        class="entries"
        data-drop="day"
        :data-date="day.date"
        data-row="all"
        :class="{ target: held?.target?.kind === 'day' && held.target.date === day.date }"
      >
        <TaskLine
          v-for="item in day.entries"
          :key="item.key"
          :item="item"
          :sources="sources"
          :hour="hourOf(item)"
          wide
          :part="dayOfWords(dayOfSeveral(item, day.date))"
          :lifted="held?.item.key === item.key && !held.copying"
          @toggle="emit('toggle', item)"
          @menu="at => emit('menu', item, at)"
        />
        <p v-if="day.entries.length === 0" class="quiet">Nothing.</p>
      </div>
    </section>
  </div>
</template>

<style scoped>
section {
  display: grid;
  grid-template-columns: 210px minmax(0, 1fr);
  gap: 12px;
  padding: 8px 12px;
  border-top: 1px solid var(--warp);
}
section:first-child {
  border-top: 0;
}
.today {
  box-shadow: inset 3px 0 0 var(--amber);
}
.entries {
  display: grid;
  gap: 2px;
  align-content: start;
}
.target {
  background: var(--amber-wash);
  outline: 2px solid var(--amber);
}
p {
  margin: 0;
}
@media (max-width: 720px) {
  section {
    grid-template-columns: 1fr;
    gap: 4px;
  }
}
</style>
