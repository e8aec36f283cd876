<script setup lang="ts">
import type { ClothItem } from '@loom/core/view'
import { useQuery, useQueryCache } from '@pinia/colada'
import { computed } from 'vue'
import { answer, api } from '../../../api/client.ts'
import { usePlanning } from '../../../stores/planning.ts'
import { useAttempt } from '../../../ui/attempt.ts'
import { leadChoices, leadWords, NEVER } from '../../../ui/lead-words.ts'
import SentenceChoice from '../../../ui/SentenceChoice.vue'

/** When the viewer is reminded of this item: as of all like it, or otherwise. Nobody else is concerned. */
const props = defineProps<{ item: ClothItem }>()
const USUAL = -2
const key = computed(() => props.item.key.split('@')[0] ?? props.item.key)
const cache = useQueryCache()
const query = useQuery({ key: ['reminders', 'items'], query: () => answer(() => api.reminders.items.$get()) })
const own = computed(() => query.data.value?.items.find(i => i.item_key === key.value))
const { planning } = usePlanning()
const { attempt, reason } = useAttempt()

const isDueOnly = computed(() => props.item.place.kind !== 'timed' || props.item.atDeadline)
const usual = computed(() => {
  const { event, block, due } = planning.value.reminders
  return isDueOnly.value ? due : props.item.kind === 'event' ? event : block
})
const zero = computed(() => (isDueOnly.value ? 'when it is due' : 'when it begins'))
const options = computed(() => [
  { value: USUAL, label: `as usual, ${usual.value === 0 ? zero.value : leadWords(usual.value)}` },
  ...leadChoices(own.value?.minutes ?? null, zero.value),
])
const value = computed(() => (own.value ? (own.value.minutes ?? NEVER) : USUAL))
async function choose(chosen: number): Promise<void> {
  const minutes = chosen === USUAL ? ('usual' as const) : chosen === NEVER ? null : chosen
  await attempt(() =>
    answer(() => api.reminders.items[':key'].$put({ param: { key: key.value }, json: { minutes } })),
  )
  await cache.invalidateQueries({ key: ['reminders', 'items'] })
}
</script>

<template>
  <p v-if="query.data.value" class="reminder">
    Remind me{{ item.recurring ? ' each time' : '' }}:
    <SentenceChoice
      name="Remind me of this"
      :options="options"
      :model-value="value"
      @update:model-value="choose"
    />
    <span v-if="reason" class="wrong" role="alert">{{ reason }}</span>
  </p>
</template>

<style scoped>
.reminder {
  margin: 10px 0;
  font-size: 13.5px;
}
.wrong {
  color: var(--clay);
}
</style>
