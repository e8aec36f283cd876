<script setup lang="ts">
import { addDays, type ClothItem, type DayPlan, durationWords, type Edit } from '@loom/core/view'
import { useQuery } from '@pinia/colada'
import { useEventListener } from '@vueuse/core'
import { computed } from 'vue'
import { answer, api } from '../../api/client.ts'
import { useEntries } from '../../stores/time.ts'
import { useAttempt } from '../../ui/attempt.ts'
import { isForPage } from '../../stores/own-keys.ts'

/** What got done of the day, planned against worked, and blocks of which nobody has said yet. */
const props = defineProps<{
  plan: DayPlan
  /** In the zone of whoever it is. */
  today: string
  /** It is shown, whatever there is. */
  always: boolean
}>()
const emit = defineEmits<{ all: [item: ClothItem, edit: Edit]; menu: [item: ClothItem, at: DOMRect] }>()

const KEY = 'e'
const query = useQuery({
  key: () => ['time', 'entries', props.today, 'assumed'],
  query: () =>
    answer(() =>
      api.time.entries.$get({ query: { from: props.today, to: addDays(props.today, 1), assumed: 'yes' } }),
    ),
})
/** Planned time of tasks that were completed: it is assumed to have been spent so. */
const assumed = computed(() => (query.data.value?.entries ?? []).filter(e => e.source === 'worked'))
const minutes = computed(() => assumed.value.reduce((x, e) => x + e.counted, 0))
const { confirm } = useEntries()
const { attempt, reason } = useAttempt()
const isOpen = computed(() => props.plan.unsaid.length > 0 || assumed.value.length > 0)
function allAsPlanned(): void {
  for (const item of props.plan.unsaid) emit('all', item, { do: 'spend', spent: true })
  if (assumed.value.length > 0) void attempt(() => confirm(assumed.value.map(e => e.id)))
}
useEventListener('keydown', (event: KeyboardEvent) => {
  if (!isForPage(event) || event.key !== KEY || !isOpen.value) return
  event.preventDefault()
  allAsPlanned()
})
</script>

<template>
  <section v-if="always || plan.done.length > 0 || isOpen" class="sheet card" aria-label="Done">
    <h2>
      Done
      <span class="quiet"
        >{{ durationWords(plan.worked) }} of {{ durationWords(plan.planned) }} planned work</span
      >
    </h2>
    <p v-if="plan.done.length === 0" class="quiet">Nothing of today is marked as done yet.</p>
    <ul v-else>
      <li v-for="item in plan.done" :key="item.key">
        <button
          type="button"
          class="plain"
          @click="e => emit('menu', item, (e.currentTarget as HTMLElement).getBoundingClientRect())"
        >
          {{ item.title }}
        </button>
      </li>
    </ul>
    <p v-if="reason" role="alert">{{ reason }}</p>
    <footer v-if="isOpen">
      <span v-if="assumed.length > 0"
        >{{ durationWords(minutes) }} of planned time of what is completed is only assumed.</span
      >
      <span v-if="plan.unsaid.length > 0"
        >{{ plan.unsaid.length === 1 ? 'One block is' : `${plan.unsaid.length} blocks are` }} over, and nobody
        has said that {{ plan.unsaid.length === 1 ? 'it was' : 'they were' }} worked.</span
      >
      <button type="button" class="push small" :title="`All as planned (${KEY})`" @click="allAsPlanned">
        All as planned
      </button>
    </footer>
  </section>
</template>

<style scoped>
.card {
  padding: 0;
}
h2 {
  padding: 10px 12px 6px;
  margin: 0;
  display: flex;
  gap: 8px;
  align-items: baseline;
}
h2 .quiet {
  font-size: 13.5px;
  font-weight: 400;
}
p {
  margin: 0;
  padding: 0 12px 10px;
}
ul {
  margin: 0;
  padding: 0 12px 10px;
  list-style: none;
  display: grid;
  gap: 3px;
}
li button {
  text-decoration: line-through;
  color: var(--husk);
  text-align: left;
}
footer {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 12px;
  align-items: center;
  padding: 9px 12px;
  border-top: 1px solid var(--warp);
  font-size: 13px;
}
</style>
