import {
  addDays,
  type ClothItem,
  type DayTerms,
  mondayOf,
  travelled,
  type WeekPlan,
  weekPlan,
  weekToPrepare,
  withTravel,
} from '@loom/core/view'
import { useQuery } from '@pinia/colada'
import { useEventListener } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { useMine } from '../../../stores/mine.ts'
import { isForPage } from '../../../stores/own-keys.ts'
import { usePlanning } from '../../../stores/planning.ts'
import { useOthersWays } from '../../../stores/ways.ts'
import { useSession } from '../../../stores/session.ts'
import { DaysCache } from '../data/days-cache.ts'
import { keyOf } from '../data/keys.ts'
import type { Scene } from '../data/use-scene.ts'

/** The week that is being prepared, beside the Cloth: everything follows from the items, so nothing is lost by leaving. */

export type PrepareState = ReturnType<typeof usePrepare>

const DAYS = 7
/** As many appointments of a week are remembered. */
const MOST_SEEN = 500

export function usePrepare(scene: Scene, enabled: () => boolean) {
  const mine = useMine()
  const session = useSession()
  const { planning, changeOrSay } = usePlanning(enabled)
  const isOpen = ref(false)
  const week = ref('')
  /** Whose, where a coordinator prepares somebody else's; null: one's own. */
  const whose = ref<string | null>(null)

  const me = computed(() => whose.value ?? scene.data.value?.me ?? '')
  const dayTerms = computed((): DayTerms => ({
    me: me.value,
    now: scene.now.value,
    zone: scene.zone.value,
    hours: scene.hoursOf(me.value),
    defaultMinutes: scene.data.value?.defaultMinutes ?? 30,
  }))
  const known = new DaysCache()
  const query = useQuery({
    key: () => ['cloth', week.value, DAYS, 'prepare'],
    query: () => known.load(week.value, DAYS),
    enabled: () => isOpen.value && week.value !== '',
  })
  const items = computed((): readonly ClothItem[] => query.data.value?.items ?? [])
  const intakes = computed(
    () => new Set(scene.sources.value.filter(s => s.own && s.name.startsWith('Intake of ')).map(s => s.id)),
  )
  const othersWays = useOthersWays(
    () => ({ from: week.value, days: DAYS }),
    () => isOpen.value && week.value !== '',
  )
  const travelling = (all: readonly ClothItem[]): ClothItem[] =>
    othersWays(withTravel(all, planning.value.travel, scene.data.value?.me ?? ''))
  /** Appointments between which there is less time than the way takes. */
  const tooShort = computed(() => {
    const mineOnly = items.value.filter(i => i.people.includes(scene.data.value?.me ?? ''))
    const titleOf = (key: string): string => items.value.find(i => i.key === key)?.title ?? ''
    return whose.value !== null
      ? []
      : travelled(mineOnly, planning.value.travel).tooShort.map(t => ({
          ...t,
          words: [titleOf(t.before), titleOf(t.after)] as const,
        }))
  })
  const plan = computed((): WeekPlan | null =>
    query.data.value
      ? weekPlan(travelling(items.value), { ...dayTerms.value, week: week.value, intakes: intakes.value })
      : null,
  )
  /** The same for everybody, where a coordinator looks after the team. */
  const people = computed(() => {
    if (session.person?.role !== 'coordinator' || !query.data.value) return []
    return query.data.value.people.map(({ id, name }) => {
      const terms = { ...dayTerms.value, me: id, hours: scene.hoursOf(id) }
      const { days } = weekPlan(items.value, { ...terms, week: week.value, intakes: intakes.value })
      const sum = (of: (d: (typeof days)[number]) => number): number => days.reduce((x, d) => x + of(d), 0)
      return {
        id,
        name,
        committed: sum(d => d.load.committed),
        capacity: sum(d => d.load.capacity),
        full: days.filter(d => d.load.capacity > 0 && d.load.committed > d.load.capacity).map(d => d.date),
      }
    })
  })

  /** What was not there when it was prepared last; the first time nothing is new. */
  const before = ref<ReadonlySet<string> | null>(null)
  const fresh = computed(() =>
    before.value === null || whose.value !== null
      ? []
      : (plan.value?.appointments ?? []).filter(i => before.value?.has(i.key) === false),
  )

  function open(): void {
    if (session.onlyLooks || session.seesAs) return
    week.value = weekToPrepare(scene.now.value, dayTerms.value)
    isOpen.value = true
    look()
  }
  function look(): void {
    const { prepared } = planning.value
    before.value = prepared.week === week.value ? new Set(prepared.seen) : null
    if (!scene.dates.value.includes(week.value)) scene.go(week.value)
  }
  /** @param by so many weeks, never into the past */
  function step(by: number): void {
    const next = addDays(week.value, 7 * by)
    if (next < mondayOf(scene.today.value)) return
    remember()
    week.value = next
    scene.go(next)
    look()
  }
  /** Next time only what has come since is new. */
  function remember(): void {
    if (!plan.value || whose.value !== null) return
    const seen = plan.value.appointments.map(i => i.key).slice(0, MOST_SEEN)
    const { prepared } = planning.value
    if (prepared.week === week.value && JSON.stringify(prepared.seen) === JSON.stringify(seen)) return
    void changeOrSay({ prepared: { week: week.value, seen } })
  }
  function close(): void {
    remember()
    whose.value = null
    isOpen.value = false
  }

  const route = useRoute()
  const router = useRouter()
  watch(
    () => [route.query.prepare, scene.data.value !== undefined] as const,
    ([asked, isThere]) => {
      if (asked === undefined || !isThere) return
      open()
      const { prepare: _, ...rest } = route.query
      void router.replace({ query: rest })
    },
    { immediate: true },
  )
  useEventListener('keydown', (event: KeyboardEvent) => {
    if (!isForPage(event) || event.key !== keyOf('prepare', mine.settings.value.keys)) return
    event.preventDefault()
    open()
  })
  const of = (id: string): void => void (whose.value = id === scene.data.value?.me ? null : id)
  return { isOpen, week, of, tooShort, plan, people, fresh, planning, terms: dayTerms, open, step, close }
}
