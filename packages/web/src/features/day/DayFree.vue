<script setup lang="ts">
import {
  addDays,
  type ClothItem,
  type DayTerms,
  dayAt,
  durationWords,
  epochOf,
  freeSpans,
  MINUTE,
  onDate,
} from '@loom/core/view'
import { computed } from 'vue'
import { clockWords } from '../../ui/telling.ts'

/** Working time that nothing takes, today and tomorrow. */
const props = defineProps<{
  items: readonly ClothItem[]
  isThere: boolean
  terms: DayTerms
  today: string
  tomorrow: string
}>()

const LEAST = 15
const mine = computed(() =>
  props.items.filter(i => i.people.length === 0 || i.people.includes(props.terms.me)),
)
const freeOn = (date: string): { startMs: number; endMs: number }[] => {
  const { hours, now, zone } = props.terms
  const ms = date === props.today ? now : epochOf(onDate(date), zone)
  return freeSpans(mine.value, hours, { ms, date }, LEAST, 1, 20).filter(
    f => dayAt(f.startMs, zone) === date || dayAt(f.startMs, zone) === addDays(date, 1),
  )
}
const todays = computed(() => freeOn(props.today))
const tomorrows = computed(() => freeOn(props.tomorrow))
const minutesIn = (all: readonly { startMs: number; endMs: number }[]): number[] =>
  all.map(f => (f.endMs - f.startMs) / MINUTE)
const sum = (all: readonly number[]): number => all.reduce((n, m) => n + m, 0)
const tomorrowWords = computed(() => {
  const all = minutesIn(tomorrows.value)
  return all.length === 0
    ? 'nothing free'
    : `${durationWords(sum(all))}, longest ${durationWords(Math.max(...all))}`
})
</script>

<template>
  <section class="sheet card" aria-label="Free time">
    <h2>Free time</h2>
    <p v-if="!isThere" class="quiet">Looking…</p>
    <template v-else>
      <p v-if="todays.length === 0">Today: nothing free any more.</p>
      <p v-for="f in todays" v-else :key="f.startMs">
        {{ clockWords(f.startMs, terms.zone) }}–{{ clockWords(f.endMs, terms.zone) }}
        <span class="quiet">{{ durationWords((f.endMs - f.startMs) / MINUTE) }}</span>
      </p>
      <p class="next">Tomorrow: {{ tomorrowWords }}</p>
      <p><RouterLink class="push" to="/cloth?draft=today">Draft free time</RouterLink></p>
    </template>
  </section>
</template>

<style scoped>
.card {
  padding: 0 0 12px;
}
h2 {
  padding: 10px 12px 4px;
  margin: 0;
}
p {
  margin: 0;
  padding: 4px 12px;
}
.push {
  text-decoration: none;
}
.next {
  border-top: 1px solid var(--warp);
  margin-top: 6px;
  padding: 8px 12px;
}
</style>
