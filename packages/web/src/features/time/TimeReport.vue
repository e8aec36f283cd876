<script setup lang="ts">
import { addDays, dayAt, durationWords, mondayOf } from '@loom/core/view'
import {
  GROUPINGS,
  type Grouping,
  leadingNames,
  type Lesson,
  OTHER,
  PERIODS,
  type Period,
  type PeriodSum,
} from '@loom/core/ledger'
import { useQuery } from '@pinia/colada'
import { computed, ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { answer, api } from '../../api/client.ts'
import { usePlanning } from '../../stores/planning.ts'
import { useSession } from '../../stores/session.ts'
import SentenceChoice from '../../ui/SentenceChoice.vue'
import EntryList from './EntryList.vue'
import HoursChart from './HoursChart.vue'
import ReportCards from './ReportCards.vue'
import TakenChart from './TakenChart.vue'
import { dyeOf, foldedInto, isRest, type Opened, type Report, SPANS } from './report.ts'

/** Where the time went: one's own in every detail, the team's as far as nobody can be known from it. */
const session = useSession()
const route = useRoute()
const router = useRouter()
const zone = computed(() => session.person?.zone ?? 'UTC')
const today = computed(() => dayAt(session.now(), zone.value))

/** What is asked for stands in the address. */
const one = <T extends string>(name: string, of: readonly T[], usual: T): T => {
  const said = route.query[name]
  return of.find(v => v === said) ?? usual
}
const set = (patch: Record<string, string>): void =>
  void router.replace({ query: { ...route.query, ...patch } })
const whose = computed({ get: () => one('of', ['me', 'team'], 'me'), set: of => set({ of }) })
const by = computed({ get: () => one<Grouping>('by', GROUPINGS, 'category'), set: v => set({ by: v }) })
const weeks = computed({
  get: () => SPANS.find(s => String(s.value) === route.query.weeks)?.value ?? 8,
  set: v => {
    const period = SPANS.find(s => s.value === v)?.period ?? 'week'
    set({ weeks: String(v), period })
  },
})
const period = computed({
  get: () => (whose.value === 'team' ? 'week' : one<Period>('period', PERIODS, 'week')),
  set: v => set({ period: v }),
})
const span = computed(() => ({
  from: addDays(mondayOf(today.value), -7 * (weeks.value - 1)),
  to: addDays(today.value, 1),
}))

const WHOSE = [
  { value: 'me' as const, label: 'My time' },
  { value: 'team' as const, label: 'The team’s time' },
]
const BY = [
  { value: 'category' as const, label: 'category' },
  { value: 'list' as const, label: 'list' },
  { value: 'kind' as const, label: 'kind' },
]
const EACH = [
  { value: 'day' as const, label: 'day' },
  { value: 'week' as const, label: 'week' },
  { value: 'month' as const, label: 'month' },
]

const report = useQuery({
  key: () => ['time', 'report', span.value.from, span.value.to, by.value, period.value],
  query: () =>
    answer(() => api.time.report.$get({ query: { ...span.value, by: by.value, period: period.value } })),
  enabled: () => whose.value === 'me',
  placeholderData: (before: Report | undefined) => before,
})
const team = useQuery({
  key: () => ['time', 'team', span.value.from, span.value.to],
  query: () => answer(() => api.time.team.$get({ query: span.value })),
})
const categories = useQuery({ key: ['categories'], query: () => answer(() => api.categories.$get()) })

const teamPeriods = computed((): PeriodSum[] =>
  (team.data.value?.weeks ?? []).map(({ week, by: sums }) => ({
    from: week,
    to: addDays(week, 7),
    by: sums ?? {},
    minutes: Object.values(sums ?? {}).reduce((x, y) => x + y, 0),
    capacity: null,
  })),
)
const periods = computed(() => {
  const all = whose.value === 'team' ? teamPeriods.value : (report.data.value?.periods ?? [])
  return foldedInto(all, leadingNames(all))
})
/** The largest at the bottom; what is no group of its own on top. */
const names = computed(() => {
  const leading = leadingNames(periods.value)
  const rest = leading.filter(isRest)
  const hasOther = periods.value.some(p => (p.by[OTHER] ?? 0) > 0)
  return [...leading.filter(n => !isRest(n)), ...rest, ...(hasOther ? [OTHER] : [])]
})
const known = computed(() => categories.data.value?.categories ?? [])
const dyes = computed(() => {
  const named = [...names.value, ...(report.data.value?.tasks ?? []).map(t => t.category)]
  return Object.fromEntries(named.map(n => [n, dyeOf(n, known.value)]))
})
const isEmpty = computed(() => periods.value.every(p => p.minutes === 0))
const NOTHING =
  'No time is written down for these weeks yet. Meetings are counted the night after they took place; a block is counted when it is marked as worked; and every item has a clock.'
const TEAM_NOTHING =
  'Nothing can be told of the team here. It takes five members, and in each figure three beside you of whom none has most of it; weeks count two days after they are over.'

/** What is listed beneath: the parts of one figure. */
const opened = ref<Opened | null>(null)
const openTask = ({ title, uid }: Report['tasks'][number]): void =>
  void (opened.value = { title, uid, from: addDays(today.value, -1000), to: addDays(today.value, 1) })

const { planning, changeOrSay } = usePlanning()
const apply = ({ category, factor }: Lesson): void =>
  void changeOrSay({ factors: { ...planning.value.factors, [category]: factor } })
function leave({ category }: Lesson): void {
  const { [category]: _, ...factors } = planning.value.factors
  void changeOrSay({ factors })
}
const useMedian = (minutes: number): void =>
  void changeOrSay({ sentence: { ...planning.value.sentence, withoutEstimate: minutes } })
const file = computed(() => {
  const query = new URLSearchParams(span.value).toString()
  return `/api/time/${whose.value === 'team' ? 'team' : 'report'}/file?${query}`
})
</script>

<template>
  <main class="page report">
    <div class="page-head">
      <h1>Where the time went</h1>
      <span class="sentence">
        <SentenceChoice v-model="whose" name="Whose time" :options="WHOSE" />,
        <SentenceChoice v-model="weeks" name="How far back" :options="SPANS" /><template v-if="whose === 'me'"
          >, each <SentenceChoice v-model="period" name="Each" :options="EACH" />, by
          <SentenceChoice v-model="by" name="By what" :options="BY"
        /></template>
      </span>
      <span class="spacer" />
      <a class="push" :href="file" download>Export CSV</a>
    </div>
    <p v-if="report.error.value" role="alert">{{ report.error.value.message }}</p>
    <template v-if="whose === 'team'">
      <div v-if="team.data.value" class="charts">
        <HoursChart
          title="Each week of the team"
          :periods="periods"
          :names="names"
          :dyes="dyes"
          period="week"
          by="category"
          :opens="false"
          both
          :empty="isEmpty ? TEAM_NOTHING : undefined"
        />
        <section class="sheet told" aria-label="What is told here">
          <h2>What is told here</h2>
          <p>Whole weeks of everybody together, by category; private events as <i>Private</i>.</p>
          <p>
            A figure is told where at least three others have a part in it, and none of them most of it,
            whoever looks. What would tell of single people is part of <i>Everything else</i>.
          </p>
          <p>
            A week is told from two days after its end on, the same to everybody. What is written down later
            changes nothing of it.
          </p>
        </section>
      </div>
    </template>
    <template v-else-if="report.data.value">
      <p v-if="report.data.value.unsaid > 0" class="sheet unsaid">
        {{ durationWords(report.data.value.unsaid) }} of planned time of finished tasks is only assumed.
        <button
          type="button"
          class="plain link"
          @click="opened = { title: 'Assumed, not confirmed', ...span, assumed: 'yes' }"
        >
          Look and confirm
        </button>
      </p>
      <div class="charts">
        <HoursChart
          :title="`Each ${period}`"
          :periods="periods"
          :names="names"
          :dyes="dyes"
          :period="period"
          :by="by"
          opens
          :empty="isEmpty ? NOTHING : undefined"
          @open="of => (opened = of)"
        />
        <TakenChart :tasks="report.data.value.tasks" :dyes="dyes" @open="openTask" />
      </div>
      <EntryList v-if="opened" :of="opened" @close="opened = null" />
      <ReportCards
        :report="report.data.value"
        :span="span"
        :today="today"
        :team="teamPeriods"
        :factors="planning.factors"
        :without-estimate="planning.sentence.withoutEstimate"
        @apply="apply"
        @leave="leave"
        @median="useMedian"
        @open="of => (opened = of)"
      />
    </template>
    <p v-else class="quiet">Adding it up…</p>
  </main>
</template>

<style scoped>
.sentence {
  line-height: 1.9;
}
.charts {
  display: grid;
  grid-template-columns: minmax(0, 61fr) minmax(0, 39fr);
  gap: 14px;
}
.told {
  padding: 10px 12px;
}
.told p {
  margin: 8px 0 0;
}
.unsaid {
  margin: 0 0 12px;
  padding: 8px 12px;
}
.link {
  color: var(--amber);
  text-decoration: underline;
}
@media (max-width: 900px) {
  .charts {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
