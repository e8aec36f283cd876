<script setup lang="ts">
import { type ClothItem, dateNames, dayAt, durationWords } from '@loom/core/view'
import type { Lesson, PeriodSum } from '@loom/core/ledger'
import { useQuery } from '@pinia/colada'
import { computed } from 'vue'
import { answer, api } from '../../api/client.ts'
import { useSession } from '../../stores/session.ts'
import type { Opened, Report } from './report.ts'

/** What can be learned: what estimates should be, what keeps slipping, how much time is in one piece. */
const props = defineProps<{
  report: Report
  span: { from: string; to: string }
  today: string
  team: readonly PeriodSum[]
  /** What was applied already, by category. */
  factors: Readonly<Record<string, number>>
  withoutEstimate: number
}>()
const emit = defineEmits<{
  apply: [lesson: Lesson]
  leave: [lesson: Lesson]
  median: [minutes: number]
  open: [of: Opened]
}>()
const session = useSession()
const WEEKDAYS = ['Mondays', 'Tuesdays', 'Wednesdays', 'Thursdays', 'Fridays', 'Saturdays', 'Sundays']

/** Within a tenth an estimate is as good as it can be. */
const isAccurate = ({ factor }: Lesson): boolean => Math.abs(factor - 1) < 0.15
const timesWords = (factor: number): string => `${String(factor).replace(/\.0$/, '')} times`

const slipping = useQuery({
  key: () => ['cloth', 'slipping', props.today],
  query: () => answer(() => api.time.slipping.$get()),
})
const since = (at: number | null): string => {
  if (at === null) return ''
  const { day, month } = dateNames(dayAt(at, session.person?.zone ?? 'UTC'))
  return `since ${day} ${month.slice(0, 3)}`
}
const share = computed(() => {
  const { minutes, of } = props.report.meetings
  return of === 0 ? null : Math.round((100 * minutes) / of)
})
const done = computed(() => {
  const weeks = Math.max(1, props.report.periods.length)
  return { n: props.report.tasks.length, each: props.report.tasks.length / weeks }
})
const open = (item: Pick<ClothItem, 'key'>) => ({ path: '/cloth', query: { item: item.key } })
</script>

<template>
  <div class="cards">
    <section class="sheet" aria-label="What estimates should be">
      <h2>What estimates should be</h2>
      <p v-for="l in report.lessons" :key="l.category">
        <template v-if="isAccurate(l)">
          <b>{{ l.category }}</b> is estimated accurately <span class="quiet">({{ l.of }} tasks)</span>.
        </template>
        <template v-else>
          <b>{{ l.category }}</b> takes {{ timesWords(l.factor) }} as long
          <span class="quiet">({{ l.of }} tasks)</span>.
        </template>
        <button
          v-if="factors[l.category] !== undefined"
          type="button"
          class="plain link"
          @click="emit('leave', l)"
        >
          Drafts count {{ timesWords(factors[l.category] ?? 1) }}: stop that
        </button>
        <button v-else-if="!isAccurate(l)" type="button" class="plain link" @click="emit('apply', l)">
          Count it so in drafts
        </button>
      </p>
      <p v-if="report.withoutEstimate">
        <b>Without estimate</b>: typically {{ durationWords(report.withoutEstimate.minutes) }}
        <span class="quiet">(median of {{ report.withoutEstimate.of }})</span>; drafts count
        {{ durationWords(withoutEstimate) }}.
        <button
          v-if="report.withoutEstimate.minutes !== withoutEstimate"
          type="button"
          class="plain link"
          @click="emit('median', report.withoutEstimate.minutes)"
        >
          Count {{ durationWords(report.withoutEstimate.minutes) }}
        </button>
      </p>
      <p v-if="report.lessons.length === 0 && !report.withoutEstimate" class="quiet">
        Eight finished tasks of one category are needed to say something.
      </p>
    </section>
    <section class="sheet" aria-label="What keeps slipping">
      <h2>What keeps slipping</h2>
      <p v-for="s in slipping.data.value?.items" :key="s.key" class="slip">
        <RouterLink :to="open(s)">{{ s.title }}</RouterLink>
        <span class="strokes" aria-hidden="true">{{ '/'.repeat(Math.min(8, s.slips)) }}</span>
        <span class="quiet">{{ s.slips === 1 ? 'once' : `${s.slips} times` }} {{ since(s.since) }}</span>
      </p>
      <p v-if="slipping.data.value?.items.length === 0" class="quiet">
        Nothing: no day or week has ended without what was planned for it.
      </p>
    </section>
    <section class="sheet" aria-label="Meetings and unbroken time">
      <h2>Meetings and unbroken time</h2>
      <p v-if="report.unbroken">
        Longest time without a meeting, typically <b>{{ durationWords(report.unbroken.usual) }}</b><br />
        <span class="quiet"
          >best on {{ WEEKDAYS[report.unbroken.best.weekday - 1] }},
          {{ durationWords(report.unbroken.best.minutes) }}; worst on
          {{ WEEKDAYS[report.unbroken.worst.weekday - 1] }},
          {{ durationWords(report.unbroken.worst.minutes) }}</span
        >
      </p>
      <p v-if="share !== null">
        <button
          type="button"
          class="plain link figure"
          @click="emit('open', { title: 'Meetings', ...span, by: 'kind', name: 'Meetings and appointments' })"
        >
          {{ share }} %
        </button>
        of your time in meetings and appointments
      </p>
      <p v-else class="quiet">No time is written down yet.</p>
      <p v-if="done.n > 0">
        <b>{{ done.n }}</b> tasks finished that time went into
      </p>
    </section>
  </div>
</template>

<style scoped>
.cards {
  display: grid;
  grid-template-columns: repeat(3, minmax(0, 1fr));
  gap: 14px;
  margin-top: 14px;
  align-items: stretch;
}
h2 {
  padding: 10px 12px;
}
p {
  margin: 0;
  padding: 8px 12px;
  border-top: 1px solid var(--warp);
}
.slip {
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto minmax(120px, auto);
  gap: 10px;
}
.strokes {
  color: var(--clay);
  font-weight: 700;
  letter-spacing: 1px;
}
.link {
  color: var(--amber);
  text-decoration: underline;
}
.figure {
  font-weight: 700;
}
@media (max-width: 900px) {
  .cards {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
