<script setup lang="ts">
import { durationWords } from '@loom/core/view'
import { computed } from 'vue'
import { minuteWords } from '../../../ui/telling.ts'
import type { Hem } from '../data/hems.ts'
import { shareOf } from '../drag/row-landing.ts'

/** A work window: a double hem along the lower edge of its row. */
const props = defineProps<{ hem: Hem; axis: { from: number; to: number } }>()
const emit = defineEmits<{ open: [] }>()

const seen = computed(() => ({
  from: Math.max(props.hem.from, props.axis.from),
  to: Math.min(props.hem.to, props.axis.to),
}))
const place = computed(() => ({
  left: shareOf(seen.value.from - props.axis.from, props.axis),
  width: shareOf(seen.value.to - seen.value.from, props.axis),
}))
const much = computed(() =>
  props.hem.there === 0
    ? 'no time left in it'
    : `${durationWords(props.hem.taken)} of ${durationWords(props.hem.there)}`,
)
/** Two hours are hardly wider than the words. */
const short = computed(() => {
  const told = (minutes: number): string =>
    `${Math.floor(minutes / 60)}:${String(minutes % 60).padStart(2, '0')}`
  return props.hem.there === 0 ? 'full' : `${told(props.hem.taken)}/${told(props.hem.there)}`
})
const words = computed(
  () =>
    `Work window ${props.hem.name}, ${minuteWords(props.hem.from)}–${minuteWords(props.hem.to % 1440)}: ${much.value} taken`,
)
</script>

<template>
  <button
    v-if="seen.to > seen.from"
    type="button"
    class="hem"
    :aria-label="words"
    :title="words"
    :style="place"
    @click="emit('open')"
  >
    <span class="name" aria-hidden="true">{{ hem.name }}</span>
    <span aria-hidden="true">{{ short }}</span>
  </button>
</template>

<style scoped>
.hem {
  appearance: none;
  background: none;
  border: 0;
  font: inherit;
  text-align: left;
  cursor: pointer;
  position: absolute;
  bottom: 1px;
  height: 16px;
  box-sizing: border-box;
  border-block: 2px solid color-mix(in srgb, var(--amber) 60%, var(--warp-strong));
  padding: 0 3px;
  font-size: 11.5px;
  line-height: 12px;
  color: var(--husk);
  white-space: nowrap;
  overflow: hidden;
  display: flex;
  gap: 5px;
}
.name {
  min-width: 0;
  overflow: hidden;
  text-overflow: ellipsis;
}
</style>
