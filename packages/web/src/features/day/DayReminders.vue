<script setup lang="ts">
import type { Reminders } from '@loom/core/view'
import { computed } from 'vue'
import SentenceChoice from '../../ui/SentenceChoice.vue'
import { minuteWords } from '../../ui/telling.ts'

/** When to be reminded of this page. */
const props = defineProps<{ reminders: Reminders }>()
const emit = defineEmits<{ change: [reminders: Reminders] }>()

const NEVER = -1
const every = (from: number, to: number): number[] =>
  Array.from({ length: (to - from) / 30 + 1 }, (_, n) => from + 30 * n)
const choices = (from: number, to: number, now: number | null) => [
  { value: NEVER, label: 'never' },
  ...[...new Set([...every(from, to), ...(now === null ? [] : [now])])]
    .sort((x, y) => x - y)
    .map(value => ({ value, label: `at ${minuteWords(value)}` })),
]
const mornings = computed(() => choices(360, 660, props.reminders.plan))
const evenings = computed(() => choices(840, 1260, props.reminders.review))
const set = (patch: Partial<Reminders>): void => emit('change', { ...props.reminders, ...patch })
</script>

<template>
  <span class="quiet reminders">
    Remind me to plan
    <SentenceChoice
      name="Remind me to plan the day"
      :options="mornings"
      :model-value="reminders.plan ?? NEVER"
      @update:model-value="m => set({ plan: m === NEVER ? null : m })"
    />, to look back
    <SentenceChoice
      name="Remind me to look back"
      :options="evenings"
      :model-value="reminders.review ?? NEVER"
      @update:model-value="m => set({ review: m === NEVER ? null : m })"
    />, and <RouterLink to="/reminders">of more</RouterLink>
  </span>
</template>

<style scoped>
.reminders {
  font-size: 13px;
}
</style>
