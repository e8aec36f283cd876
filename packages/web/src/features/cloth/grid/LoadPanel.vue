<script setup lang="ts">
import { type ClothItem, couldMove, durationWords, type HourRow, lengthOf, pressure } from '@loom/core/view'
import { onClickOutside } from '@vueuse/core'
import { computed, onMounted, ref } from 'vue'
import { useFloatingBy } from '../../../ui/floating.ts'

/** What a row's time is made of, and what could go elsewhere, what presses least first. */
const props = defineProps<{ row: HourRow; at: DOMRect; defaultMinutes: number }>()
const emit = defineEmits<{ lighten: [item: ClothItem]; close: [] }>()

const panel = ref<HTMLElement | null>(null)
const over = computed(() => props.row.load.committed - props.row.load.capacity)
const movable = computed(() =>
  couldMove(props.row.blocks, props.row.head, i => pressure(i, props.row.date)).slice(0, 8),
)
const parts = computed(() => {
  const { parts: p, withoutEstimate } = props.row.load
  return [
    [p.meetings, 'in events'],
    [p.blocks, 'of work with an hour'],
    [
      p.planned,
      `planned without an hour${withoutEstimate > 0 ? `, ${withoutEstimate} without estimate` : ''}`,
    ],
  ].filter(([minutes]) => Number(minutes) > 0) as [number, string][]
})
const place = useFloatingBy(() => props.at, panel)
onClickOutside(panel, () => emit('close'))
onMounted(() => panel.value?.querySelector<HTMLElement>('button')?.focus({ preventScroll: true }))
</script>

<template>
  <div
    ref="panel"
    class="panel"
    role="dialog"
    aria-label="Load"
    :style="place"
    @keydown.esc.stop="emit('close')"
  >
    <p class="sum" :class="{ over: over > 0 }">
      {{ durationWords(row.load.committed) }} of {{ durationWords(row.load.capacity)
      }}<template v-if="over > 0">: {{ durationWords(over) }} too much</template>
    </p>
    <ul class="parts quiet">
      <li v-for="[minutes, what] in parts" :key="what">{{ durationWords(minutes) }} {{ what }}</li>
    </ul>
    <p v-if="movable.length === 0" class="quiet">Nothing here is ours to move.</p>
    <template v-else>
      <p class="quiet">What could go back to the week, what presses least first:</p>
      <div v-for="item in movable" :key="item.key" class="entry">
        <span class="title">{{ item.title }}</span>
        <span class="quiet">{{ durationWords(lengthOf(item, defaultMinutes)) }}</span>
        <button
          type="button"
          class="push small"
          :aria-label="`${item.title}: any day this week`"
          @click="emit('lighten', item)"
        >
          Any day
        </button>
      </div>
    </template>
  </div>
</template>

<style scoped>
.panel {
  position: fixed;
  z-index: 900;
  width: 330px;
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
