import {
  type AskedOf,
  daysOfSpan,
  hadOf,
  type MayMove,
  needsTime,
  type Planned,
  type PieceOf,
  plannedOf,
  SEARCHED_AFTER,
  type PlanSentence,
  takenOf,
  tasksOf,
  type TaskToPlan,
  type TeamTold,
  tripsAmong,
} from '@loom/core/planning'
import {
  addDays,
  type ClothItem,
  dayAt,
  daysBetween,
  epochOf,
  isWay,
  mondayOf,
  onDate,
  wallTime,
  wayOf,
  withTravel,
  zoned,
} from '@loom/core/view'
import { useQuery } from '@pinia/colada'
import { proxy } from 'comlink'
import { computed, onBeforeUnmount, ref, watch } from 'vue'
import { standingSpans, useOffers } from '../../../stores/offers.ts'
import { usePlanning } from '../../../stores/planning.ts'
import { useWaits } from '../../../stores/waits.ts'
import { useSession } from '../../../stores/session.ts'
import { useTaken } from '../../../stores/time.ts'
import { useOthersWays } from '../../../stores/ways.ts'
import { DaysCache } from '../data/days-cache.ts'
import type { Scene } from '../data/use-scene.ts'
import type { Held } from '../drag/drag.ts'
import { useRequests } from '../../team/use-requests.ts'
import { isDrafted } from './drafted-items.ts'
import { planner } from './planner.ts'
import type { DraftState } from './use-draft.ts'

const MINUTE = 60_000
/** The planner's grid: in between, the same is asked. */
const GRID_MS = 5 * MINUTE

/** Asks for the draft whenever something of it has changed, and keeps what was drafted last on the Cloth. */
export function useDrafting(scene: Scene, draft: DraftState, held: () => Held | null) {
  const { planning, change, isThere } = usePlanning()
  const sentence = computed((): PlanSentence =>
    draft.only.value ? { ...planning.value.sentence, span: draft.only.value } : planning.value.sentence,
  )
  const session = useSession()
  const me = computed(() => scene.data.value?.me ?? '')
  const zone = scene.zone
  const now = computed(() => Math.ceil(scene.now.value / GRID_MS) * GRID_MS)
  const today = computed(() => dayAt(now.value, zone.value))
  const hours = computed(() => scene.hoursOf(me.value))
  const { hoursOf } = scene
  const days = computed(() => daysOfSpan(sentence.value.span, today.value, hours.value))
  const last = computed(() => addDays(today.value, days.value - 1))

  // From Monday, as what was done this week of something regular counts as well.
  const range = computed(() => {
    const from = mondayOf(today.value)
    // And beyond, as something may be said to fit later.
    return { from, days: daysBetween(from, last.value) + 1 + SEARCHED_AFTER }
  })
  const known = new DaysCache()
  const query = useQuery({
    key: () => ['cloth', range.value.from, range.value.days, 'draft'],
    query: () => known.load(range.value.from, range.value.days),
    placeholderData: (previous: Awaited<ReturnType<DaysCache['load']>> | undefined) => previous,
  })
  const items = computed((): readonly ClothItem[] => query.data.value?.items ?? [])
  const othersWays = useOthersWays(() => range.value)
  const itemOf = computed(() => new Map(items.value.map(i => [i.key, i])))

  const { mine } = useRequests()
  const taken = useTaken()
  const { waits, listed, titleOf: waitedForTitle } = useWaits()

  const startOfDay = (date: string): number => epochOf(onDate(date), zone.value)
  const seed = ref(1)
  const people = computed(() => scene.data.value?.people ?? [])
  const isMine = (id: string): boolean => id === me.value
  /** Those whose work is drafted; oneself where nobody else may be, or is there any more. */
  const whose = computed((): string[] => {
    const wanted = session.person?.role === 'coordinator' ? sentence.value.whose : 'me'
    if (wanted === 'everybody') return people.value.map(p => p.id)
    return people.value.some(p => p.id === wanted) ? [wanted] : [me.value]
  })
  /** Time that somebody was asked for, and has not answered. */
  const waiting = computed(() =>
    mine.value.flatMap(({ state, what }) => (state === 'open' && what.ask === 'time' ? what.pieces : [])),
  )
  const { offers } = useOffers(() => true)
  const offered = computed(() => standingSpans(offers.value, me.value, now.value).flatMap(o => o.spans))
  const isAskedFor = computed(() => new Set(waiting.value.map(p => p.key)))
  const asked = computed((): AskedOf[] | null =>
    query.data.value && me.value !== '' ? whose.value.map(askedOf) : null,
  )
  function askedOf(id: string): AskedOf {
    const person = { id, zone: hoursOf(id).zone, now: now.value, isAnother: !isMine(id) }
    // How others plan their time is theirs: of them counts what is to be seen.
    const { windows, regulars, factors } = isMine(id)
      ? planning.value
      : { windows: [], regulars: [], factors: {} }
    const { travel } = planning.value
    const learned = { factors, beside: taken.value, waits: waits.value, listed: listed.value }
    const { into, undated, parts, withoutEstimate, breaks } = sentence.value
    const anew = sentence.value.anew && isMine(id)
    const terms = {
      defaultMinutes: withoutEstimate,
      splitFrom: parts === null ? Number.MAX_SAFE_INTEGER : 2 * parts,
      leastPiece: parts ?? 15,
    }
    const out = new Set(draft.leftOut.value.flatMap(o => (o.regular ? [] : [o.id])))
    const isAsked = (t: TaskToPlan): boolean =>
      !out.has(t.id) &&
      !isAskedFor.value.has(t.id) &&
      (undated || t.due !== null) &&
      (into === 'hours' || !isMine(id) || t.windows.length > 0) &&
      (isMine(id) || itemOf.value.get(t.id)?.people.includes(id) === true)
    // Only what is drafted with leaves its place: of all else it is taken.
    const movable = anew ? plannedOf(items.value, person, startOfDay(addDays(last.value, 1))) : []
    const open = new Set(
      tasksOf(items.value, person, windows, movable, learned)
        .filter(t => isAsked(t) && needsTime(t, terms))
        .map(t => t.id),
    )
    const planned = movable.filter(p => open.has(p.task))
    const goes = new Set([...planned.map(p => p.key), ...draft.givingWay.value])
    const staying = items.value.filter(i => !goes.has(i.key))
    const trips = isMine(id) ? tripsAmong(staying, travel, person) : undefined
    const tasks = tasksOf(items.value, person, windows, planned, learned, trips).filter(isAsked)
    const had = hadOf(items.value, regulars, person)
    for (const { regular } of draft.leftOut.value) if (regular) (had[regular.id] ??= []).push(regular.date)
    const hours = hoursOf(id)
    const asked = {
      now: now.value,
      zone: person.zone,
      days: days.value,
      hours: { ...hours, off: [...hours.off] },
      tasks: into === 'windows' ? tasks.map(t => ({ ...t, spills: false })) : tasks,
      taken: takenOf(othersWays(withTravel(staying, travel, me.value)), person),
      windows,
      regulars: regulars.map(r => ({ ...r, category: r.name })),
      had,
      terms,
      breaks,
      pinned: draft.pinned.value.filter(p => p.person === id),
      mayMove: isMine(id) ? items.value.flatMap(mayMove) : [],
      offered: isMine(id) ? offered.value : [],
    }
    return { person: id, asked }
  }

  /** What takes a way has more to give way than itself. */
  const hasWays = computed(
    () =>
      new Set(
        withTravel(items.value, planning.value.travel, me.value).flatMap(i =>
          isWay(i.key) ? [wayOf(i.key)] : [],
        ),
      ),
  )
  /** What stands and is one’s own to move, where something has no place: no meeting, and nothing that comes again. */
  function mayMove(item: ClothItem): MayMove[] {
    const { key, place } = item
    const isOwn = item.movable && item.people.includes(me.value) && item.busy && !item.recurring
    const isPlain =
      item.eventKind !== 'meeting' && item.eventKind !== 'break' && !isWay(key) && !hasWays.value.has(key)
    const isQuiet = !item.conflict && !item.pending && !item.done && !item.leftOut && !item.atDeadline
    return isOwn && isPlain && isQuiet && place.kind === 'timed'
      ? [{ key, fromMs: place.startMs, toMs: place.endMs }]
      : []
  }

  /** What of the Cloth the asked-for leaves out of what is taken. */
  function plannedIn(all: readonly AskedOf[]): Planned[] {
    const tasks = all.find(a => isMine(a.person))?.asked.tasks ?? []
    const of = new Set(tasks.filter(t => t.planned.length > 0).map(t => t.id))
    const person = { id: me.value, zone: zone.value, now: now.value }
    return plannedOf(items.value, person, startOfDay(addDays(last.value, 1))).filter(p => of.has(p.task))
  }

  const progress = ref(1)
  const trouble = ref('')
  let turn = 0
  async function run(what: readonly AskedOf[]): Promise<void> {
    const mine = ++turn
    const show = (so: TeamTold, far: number): void => {
      if (mine !== turn || !draft.isOpen.value) return
      draft.names.value = new Map(planning.value.regulars.map(r => [r.id, r.name]))
      draft.tasks.value = itemOf.value
      draft.planned.value = plannedIn(what)
      draft.tell(so)
      progress.value = far
    }
    try {
      trouble.value = ''
      const plain = JSON.parse(JSON.stringify(what)) as AskedOf[]
      const worker = await planner()
      // What there is at once is shown while nothing is there yet; afterwards it would only flicker.
      const first = proxy((told: TeamTold) => void (draft.told.value === null && show(told, 0)))
      // It comes by a way of its own, and may come after the draft itself.
      let isDone = false
      const onTheWay = proxy((far: number) => void (mine === turn && !isDone && (progress.value = far)))
      const done = await worker.draft(plain, { seed: seed.value, quick: false }, first, onTheWay)
      isDone = true
      if (done) show(done, 1)
    } catch (error) {
      fails(error)
    }
  }
  /** The worker is the browser’s: it may be refused, or be out of memory. */
  function fails(error: unknown): void {
    trouble.value = `The draft could not be made. ${error instanceof Error ? error.message : ''}`
    progress.value = 1
  }
  const text = computed(() => asked.value && JSON.stringify([seed.value, asked.value]))
  watch(
    text,
    () => {
      if (draft.asTried.value) {
        draft.asTried.value = false
        turn++
        progress.value = 1
      } else if (asked.value) void run(asked.value)
    },
    { immediate: true },
  )

  /** While a piece is held, the rest is drafted around where it would land. */
  const hovered = computed((): AskedOf[] | null => {
    const h = held()
    if (!h || !isDrafted(h.item.key) || h.target?.kind !== 'hour' || !asked.value) return null
    const piece = draft.pieceOf(h.item.key)
    if (!piece) return null
    const start = zoned(`${h.target.date}T${wallTime(h.target.from)}:00`, zone.value)
    const startMs = epochOf(start, zone.value)
    const at = { ...piece, fromMs: startMs, toMs: startMs + h.target.minutes * MINUTE }
    return asked.value.map(({ person, asked: of }) => {
      if (person !== piece.person) return { person, asked: of }
      const others = of.pinned.filter(p => !(p.id === piece.id && p.fromMs === piece.fromMs))
      return { person, asked: { ...of, pinned: [...others, at] } }
    })
  })
  watch(
    () => hovered.value && JSON.stringify(hovered.value.map(a => a.asked.pinned)),
    (is, was) => {
      if (hovered.value) void hover(hovered.value)
      // Put back where it was, or let go: what is so without it.
      else if (was && !is && asked.value) void run(asked.value)
    },
  )
  /** What is held stays where it is drawn; only what gives way is moved. */
  async function hover(what: readonly AskedOf[]): Promise<void> {
    const mine = ++turn
    const key = held()?.item.key
    const own = key === undefined ? undefined : draft.pieceOf(key)
    const plain = JSON.parse(JSON.stringify(what)) as AskedOf[]
    const nothing = proxy(() => undefined)
    let done: TeamTold | null
    try {
      done = await (await planner()).draft(plain, { seed: seed.value, quick: true }, nothing, nothing)
    } catch (error) {
      fails(error)
      return
    }
    if (!done || mine !== turn || !own || !held()) return
    const landed = what.find(a => a.person === own.person)?.asked.pinned.at(-1)
    const rest = done.pieces.filter(p => !(p.id === own.id && p.fromMs === landed?.fromMs))
    draft.tell({ ...done, pieces: [...rest, own] })
  }

  onBeforeUnmount(() => {
    turn++
    void planner().then(
      worker => worker.drop(),
      () => undefined,
    )
  })

  return {
    planning,
    areTermsThere: isThere,
    sentence,
    say(patch: Partial<PlanSentence>): Promise<void> {
      if (patch.span) draft.only.value = null
      return change({ sentence: { ...planning.value.sentence, ...patch } })
    },
    items,
    titleOf: (id: string): string =>
      itemOf.value.get(id)?.title ??
      draft.names.value.get(id.split(' ')[0] ?? '') ??
      waitedForTitle(id) ??
      'another task',
    itemOf: (id: string) => itemOf.value.get(id),
    today,
    last,
    isReady: computed(() => query.data.value !== undefined),
    fetchTrouble: computed(() => query.error.value?.message ?? ''),
    progress,
    trouble,
    again: () => void seed.value++,
    /** What there is so far is taken, and says that it is not finished. */
    enough: async (): Promise<void> => (await planner()).enough(),
    refetch: () => query.refetch(),
    whose,
    waiting,
    people: computed(() => (session.person?.role === 'coordinator' ? people.value : [])),
    remedies: async (person: string, id: string) => (await planner()).remedies(person, id),
    whyNotEarlier: async ({ person, id, fromMs }: PieceOf) =>
      (await planner()).whyNotEarlier(person, id, fromMs),
  }
}
export type Drafting = ReturnType<typeof useDrafting>
