import { addDays, dayAt, dayWords, epochOf, onDate, wallTime, zoned } from '@loom/core/view'
import type { OfferTerms } from '@loom/core/offers'
import { computed, reactive, ref } from 'vue'
import { minuteWords } from '../../../ui/telling.ts'
import { useMine } from '../../../stores/mine.ts'
import { standingSpans, useOffers } from '../../../stores/offers.ts'
import type { Scene } from '../data/use-scene.ts'
import { usualKept } from '../data/further-time.ts'

/** An offer that is being made beside the Cloth, and what is offered already, as the Cloth shows it. */

/** A span of offered time in a row of one day, minutes after midnight. */
export interface OfferedSpan {
  key: string
  title: string
  from: number
  to: number
  /** It is not given to anybody yet. */
  isDraft: boolean
  /** In whose rows beside one's own, where people are rows. */
  people: readonly string[]
}

export interface DrawnSpan {
  date: string
  from: number
  to: number
}

export type Offering = ReturnType<typeof useOffering>

const WORKDAYS = [1, 2, 3, 4, 5]

export function useOffering(scene: Scene, isThere: () => boolean) {
  const mine = useMine()
  const isOpen = ref(false)
  const all = useOffers(isThere)
  /** Times for guests, or a time that colleagues have in common. */
  const side = ref<'guests' | 'us'>('guests')
  /** The common time that is looked at. */
  const common = ref<{ fromMs: number; toMs: number; title: string; people: string[] } | null>(null)
  const fresh = () => ({
    title: '',
    kind: 'spans' as 'spans' | 'hours',
    spans: [] as { fromMs: number; toMs: number }[],
    hours: [{ weekdays: [...WORKDAYS], start: 600, end: 720 }],
    weeks: 4,
    lengths: [45],
    hosts: [] as string[],
    how: 'any' as 'any' | 'all',
    around: 0,
    noticeHours: 4,
    mostPerDay: 0,
    givesWay: 0,
    location: '',
    callLink: '',
    questions: [] as { text: string; needed: boolean }[],
    into: null as string | null,
  })
  const given = reactive(fresh())
  /** What a common time is asked for by, and the one that is looked at, epoch ms. */
  const us = reactive({
    people: [] as string[],
    minutes: 45,
    days: 7,
    below: 45,
    title: '',
    location: '',
    /** Null: nobody has said; '': in Amber Loom alone. */
    into: null as string | null,
    chosen: null as number | null,
  })

  const instant = (date: string, minute: number): number => {
    const day = minute >= 1440 ? addDays(date, 1) : date
    return epochOf(zoned(`${day}T${wallTime(minute % 1440)}:00`, scene.zone.value), scene.zone.value)
  }
  /** Spans that touch or overlap become one. */
  function add({ date, from, to }: DrawnSpan): void {
    const span = { fromMs: instant(date, from), toMs: instant(date, to) }
    const [near, far] = [given.spans, given.spans].map((s, n) =>
      s.filter(o => (o.fromMs <= span.toMs && span.fromMs <= o.toMs) === (n === 0)),
    )
    const fromMs = Math.min(span.fromMs, ...(near ?? []).map(s => s.fromMs))
    const toMs = Math.max(span.toMs, ...(near ?? []).map(s => s.toMs))
    given.spans = [...(far ?? []), { fromMs, toMs }].sort((x, y) => x.fromMs - y.fromMs)
    given.kind = 'spans'
  }
  function open(first: (DrawnSpan & { title: string }) | null = null): void {
    if (!isOpen.value) {
      const kept = given.spans.some(s => s.toMs > scene.now.value)
      if (!kept)
        Object.assign(given, fresh(), {
          hosts: [scene.data.value?.me ?? ''],
          into: usualKept(mine.settings.value).into,
        })
      isOpen.value = true
    }
    if (!first) return
    if (first.title !== '') given.title = first.title
    add(first)
  }
  function reset(): void {
    Object.assign(given, fresh(), {
      hosts: [scene.data.value?.me ?? ''],
      into: usualKept(mine.settings.value).into,
    })
  }

  const terms = computed((): OfferTerms => ({
    title: given.title.trim(),
    lengths: [...given.lengths].sort((x, y) => x - y),
    how: given.how,
    before: given.around,
    after: given.around,
    noticeHours: given.noticeHours,
    mostPerDay: given.mostPerDay === 0 ? null : given.mostPerDay,
    givesWay: given.givesWay === 0 ? null : given.givesWay,
    location: given.location.trim(),
    callLink: given.callLink.trim(),
    questions: given.questions.flatMap(q => (q.text.trim() ? [{ ...q, text: q.text.trim() }] : [])),
    zone: scene.zone.value,
    when:
      given.kind === 'spans'
        ? { kind: 'spans', spans: given.spans.map(s => ({ ...s })) }
        : { kind: 'hours', hours: given.hours.map(h => ({ ...h })), weeks: given.weeks },
  }))

  /** Of one's own time; on a day in the zone of the Cloth. */
  function spansOn(date: string): OfferedSpan[] {
    const midnight = epochOf(onDate(date), scene.zone.value)
    const end = epochOf(onDate(addDays(date, 1)), scene.zone.value)
    const me = scene.data.value?.me ?? ''
    const now = scene.now.value
    const inDay = (
      key: string,
      title: string,
      spans: readonly { fromMs: number; toMs: number }[],
      isDraft: boolean,
      people: readonly string[] = [],
    ) =>
      spans.flatMap((s, n): OfferedSpan[] => {
        const [from, to] = [Math.max(s.fromMs, midnight), Math.min(s.toMs, end)]
        if (from >= to) return []
        const minute = (ms: number): number => Math.round((ms - midnight) / 60_000)
        return [{ key: `${key} ${n}`, title, from: minute(from), to: minute(to), isDraft, people }]
      })
    const standing = standingSpans(all.offers.value, me, now).flatMap(({ offer, spans }) =>
      inDay(offer.id, offer.terms.title, spans, false),
    )
    const drawn =
      isOpen.value && side.value === 'guests' && given.kind === 'spans'
        ? inDay('draft', given.title || 'to be offered', given.spans, true)
        : []
    const { value: among } = common
    const found =
      isOpen.value && among
        ? inDay('common', among.title || 'a common time', [among], true, among.people)
        : []
    return [...standing, ...drawn, ...found]
  }
  const spanWords = ({ fromMs, toMs }: { fromMs: number; toMs: number }): string => {
    const zone = scene.zone.value
    const date = dayAt(fromMs, zone)
    const minute = (ms: number): number => Math.round((ms - epochOf(onDate(date), zone)) / 60_000)
    return `${dayWords(date)}, ${minuteWords(minute(fromMs))}–${minuteWords(minute(toMs) % 1440)}`
  }
  /** Where colleagues ask for one's own time. */
  const asks = computed(() => {
    const me = scene.data.value?.me ?? ''
    return all.offers.value.filter(o => !o.isOver && o.hosts.some(h => h.id === me && !h.agreed))
  })
  return {
    asks,
    isOpen,
    side,
    common,
    us,
    given,
    terms,
    all,
    open,
    add,
    reset,
    spansOn,
    spanWords,
    close: () => void ((isOpen.value = false), (common.value = null)),
  }
}
