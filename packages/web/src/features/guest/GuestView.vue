<script setup lang="ts">
import {
  addDays,
  type ClothItem,
  clockWords,
  dayAt,
  dayWords,
  longDayWords,
  mondayOf,
  whole,
} from '@loom/core/view'
import { useQuery } from '@pinia/colada'
import { useIntervalFn } from '@vueuse/core'
import { computed, ref } from 'vue'
import { useRoute } from 'vue-router'
import { answer, api, Refused } from '../../api/client.ts'
import LoomMark from '../../ui/LoomMark.vue'
import { linkToken } from '../entry/link-token.ts'

/**
 * What a secret address shows to somebody without an account: days as a list, a week at a time, in their own zone; for a
 * telephone first, and for paper. The secret stays in the address, so that the page can be kept and opened again.
 */
const token = linkToken()
const zone = Intl.DateTimeFormat().resolvedOptions().timeZone || 'UTC'
const monday = ref(mondayOf(dayAt(Date.now(), zone)))
const headers = { 'Loom-Link': token }
/** A member who looks at it as the guest does. */
const route = useRoute()
const as = typeof route.query.as === 'string' ? route.query.as : null
const ask = (from: string) => {
  const span = { from, days: '7', zone }
  return as === null
    ? answer(() => api.guest.$get({ query: span }, { headers }))
    : answer(() => api.links[':id'].look.$get({ param: { id: as }, query: span }))
}
type Told = Awaited<ReturnType<typeof ask>>
const query = useQuery({
  key: () => ['guest', monday.value],
  query: () => ask(monday.value),
  placeholderData: (previous: Told | undefined) => previous,
})
const AGAIN_MS = 60_000
useIntervalFn(() => void query.refetch(), AGAIN_MS)

/** Ended or guessed: nothing of before stays. */
const ended = computed(() => query.error.value instanceof Refused && query.error.value.status === 404)
const told = computed(() => (ended.value ? undefined : query.data.value))
const trouble = computed(() => query.error.value?.message ?? '')

const items = computed(() => (told.value?.items ?? []).map(i => whole(i)))
const startOf = ({ place }: ClothItem): number => (place.kind === 'timed' ? place.startMs : 0)
const daysOf = ({ place }: ClothItem, dates: readonly string[]): string[] => {
  if (place.kind === 'day') return dates.filter(d => d === place.date)
  if (place.kind === 'all-day')
    return dates.filter(d => place.from <= d && (d < place.to || d === place.from))
  if (place.kind !== 'timed') return []
  const [first, last] = [dayAt(place.startMs, zone), dayAt(Math.max(place.startMs, place.endMs - 1), zone)]
  return dates.filter(d => first <= d && d <= last)
}
const dates = computed(() =>
  Array.from({ length: told.value?.days ?? 0 }, (_, i) => addDays(told.value?.from ?? '', i)),
)
const days = computed(() =>
  dates.value.map(date => ({
    date,
    lines: items.value
      .filter(i => daysOf(i, dates.value).includes(date))
      .sort((x, y) => startOf(x) - startOf(y) || (x.title < y.title ? -1 : 1)),
  })),
)
function timeOf({ place }: ClothItem, date: string): string {
  if (place.kind === 'all-day') return 'all day'
  if (place.kind !== 'timed') return 'in the day'
  const from = dayAt(place.startMs, zone) < date ? '' : clockWords(place.startMs, zone, '24')
  const to = dayAt(place.endMs - 1, zone) > date ? '' : clockWords(place.endMs, zone, '24')
  return `${from}–${to}`
}
const sourceOf = (item: ClothItem) => told.value?.sources.find(s => s.id === item.sources[0])
const peopleOf = (item: ClothItem): string =>
  item.people.flatMap(id => told.value?.people.find(p => p.id === id)?.name ?? []).join(', ')
const below = (item: ClothItem): string =>
  [sourceOf(item)?.name, peopleOf(item), item.location].filter(Boolean).join(' · ')

const isFirst = computed(() => monday.value <= mondayOf(told.value?.today ?? monday.value))
const isLast = computed(() => addDays(monday.value, 7) > (told.value?.last ?? '9999'))
const go = (weeks: number): void => void (monday.value = addDays(monday.value, 7 * weeks))
const print = (): void => window.print()
</script>

<template>
  <main class="guest">
    <header>
      <LoomMark :size="28" />
      <div>
        <h1>{{ told ? told.workspace : 'Amber Loom' }}</h1>
        <p v-if="told" class="quiet">
          {{ told.name }} · shown by {{ told.maker }}, to look at · times in {{ zone.replaceAll('_', ' ') }}
        </p>
      </div>
    </header>
    <p v-if="as" class="as">
      As {{ told?.name ?? 'the guest' }} sees it.
      <RouterLink to="/team/sharing">Back to my own</RouterLink>
    </p>
    <p v-if="trouble" class="trouble" role="alert">{{ trouble }}</p>
    <template v-if="told">
      <nav aria-label="Weeks">
        <button type="button" class="push" :disabled="isFirst" @click="go(-1)">‹ Week before</button>
        <strong aria-live="polite"
          >{{ dayWords(dates[0] ?? '') }} – {{ dayWords(dates.at(-1) ?? '') }}</strong
        >
        <button type="button" class="push" :disabled="isLast" @click="go(1)">Next week ›</button>
        <button type="button" class="push print" @click="print">Print</button>
      </nav>
      <section v-for="d in days" :key="d.date" :class="{ today: d.date === told.today }">
        <h2>{{ longDayWords(d.date) }}</h2>
        <p v-if="d.lines.length === 0" class="quiet none">Nothing is shown on this day.</p>
        <ul v-else>
          <li
            v-for="i in d.lines"
            :key="i.key"
            :class="{ busy: i.onlyBusy, done: i.done }"
            :style="{ '--dye': sourceOf(i)?.dye }"
          >
            <span class="time">{{ timeOf(i, d.date) }}</span>
            <span class="what">
              <span class="title">{{ i.title }}</span>
              <span v-if="below(i)" class="quiet">{{ below(i) }}</span>
              <span v-if="i.notes" class="notes">{{ i.notes }}</span>
            </span>
          </li>
        </ul>
      </section>
    </template>
  </main>
</template>

<style scoped>
.as {
  padding: 8px 12px;
  background: var(--amber-wash);
}
.guest {
  max-width: 720px;
  margin: 0 auto;
  padding: 16px 16px 60px;
}
header {
  display: flex;
  gap: 12px;
  align-items: center;
  margin-bottom: 14px;
}
header :first-child {
  flex: none;
}
header div {
  min-width: 0;
}
h1 {
  font-size: 22px;
}
header p {
  margin: 2px 0 0;
}
nav {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 8px;
  margin-bottom: 14px;
}
.print {
  margin-left: auto;
}
section {
  margin-bottom: 14px;
}
h2 {
  font-size: 15px;
  padding: 6px 0;
  border-bottom: 1px solid var(--warp-strong);
}
.today h2 {
  border-bottom: 3px solid var(--amber);
}
ul {
  margin: 0;
  padding: 0;
  list-style: none;
}
li {
  display: grid;
  grid-template-columns: 104px 1fr;
  gap: 10px;
  padding: 8px 0 8px 10px;
  border-left: 4px solid var(--dye, var(--warp-strong));
  border-bottom: 1px solid var(--warp);
}
.time {
  font-variant-numeric: tabular-nums;
}
.what {
  display: grid;
  gap: 2px;
  overflow-wrap: anywhere;
}
.title {
  font-weight: 600;
}
.busy .title {
  font-weight: 400;
  color: var(--husk);
}
.done .title {
  text-decoration: line-through;
  font-weight: 400;
}
.notes {
  white-space: pre-line;
}
.none {
  margin: 8px 0 0;
}
.trouble {
  padding: 12px 14px;
  background: var(--clay-wash);
  color: var(--clay);
  border-radius: 2px;
}
@media (max-width: 460px) {
  li {
    grid-template-columns: 1fr;
    gap: 2px;
  }
}
@media print {
  nav button {
    display: none;
  }
  section {
    break-inside: avoid;
  }
}
</style>
