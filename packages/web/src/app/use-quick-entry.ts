import type { Part, QuickEntry } from '@loom/core/capture'
import { dayAt, dayOf, daysBetween, dayWords, durationWords, type Filter, type Making } from '@loom/core/view'
import { useQuery } from '@pinia/colada'
import { computed, type ComputedRef, type Ref, ref, watch } from 'vue'
import { answer, api } from '../api/client.ts'
import { captureGiven } from '../stores/capture-context.ts'
import { useSession } from '../stores/session.ts'
import { whenWords } from '../ui/telling.ts'

/** Reads plain words as they are typed. Each part that was understood can be undone. */

const PART_NAME: Record<Part['kind'], string> = {
  start: 'planned',
  due: 'due',
  week: 'any day',
  length: 'takes',
  person: 'for',
  list: 'list',
  priority: 'priority',
}

export interface ShownPart {
  kind: Part['kind']
  name: string
  says: string
  /** The words it was read from. */
  words: string
}

function partWords(p: Part, zone: string): string {
  switch (p.kind) {
    case 'start':
    case 'due':
      return whenWords(p.when, zone)
    case 'week':
      return `week of ${dayWords(p.week)}`
    case 'length':
      return durationWords(p.minutes)
    case 'person':
    case 'list':
      return p.name
    case 'priority':
      return p.priority <= 3 ? 'high' : p.priority <= 6 ? 'medium' : 'low'
  }
}

/** The part as a clause, where what is there can be told apart by it. */
function clauseOf(p: Part, today: string, zone: string): Filter {
  switch (p.kind) {
    case 'list':
      return [{ field: 'list', is: [p.id] }]
    case 'person':
      return [{ field: 'member', is: [p.id] }]
    case 'priority':
      return [{ field: 'priority', atLeast: p.priority }]
    case 'due':
      return [{ field: 'due', within: Math.max(-1, daysBetween(today, dayOf(p.when, zone))) }]
    default:
      return []
  }
}

export function useQuickEntry(
  text: Ref<string>,
  open: Ref<boolean>,
): {
  /** Loads the date parser, which is needed only while typing. */
  prepare: () => Promise<void>
  title: ComputedRef<string>
  /** The same words read as a question: what is left of them, and a filter by the parts. */
  question: ComputedRef<{ words: string; filter: Filter }>
  parts: ComputedRef<ShownPart[]>
  /** The words stay in the title. */
  takeBack: (words: string) => void
  making: () => Making
} {
  const session = useSession()
  const zone = computed(() => session.person?.zone ?? 'UTC')
  const sources = useQuery({
    key: ['capture-sources'],
    query: () =>
      answer(() =>
        api.cloth.$get({ query: { from: new Date(session.now()).toISOString().slice(0, 10), days: '1' } }),
      ),
    enabled: () => open.value,
    staleTime: 60_000,
  })
  const back = ref<string[]>([])
  watch(text, now => {
    back.value = back.value.filter(w => now.toLowerCase().includes(w.toLowerCase()))
  })
  const reading = ref<((t: string, given: string[]) => QuickEntry) | null>(null)
  async function prepare(): Promise<void> {
    if (reading.value) return
    const { readQuickEntry } = await import('@loom/core/capture')
    reading.value = (t, given) => {
      const d = sources.data.value
      const lists = (d?.sources ?? []).filter(s => s.itemKind === 'task' && s.writable === 1)
      const terms = { people: d?.people ?? [], lists, now: session.now(), zone: zone.value }
      return readQuickEntry(t, terms, given)
    }
  }
  const entry = computed((): QuickEntry => {
    const plain = { title: text.value.trim(), parts: [] }
    return text.value.trim() && reading.value ? reading.value(text.value, back.value) : plain
  })

  function making(): Making {
    const part = <K extends Part['kind']>(kind: K) =>
      entry.value.parts.find((p): p is Extract<Part, { kind: K }> => p.kind === kind)
    const given = captureGiven.value
    return {
      what: 'task',
      title: entry.value.title || text.value.trim(),
      start: part('start')?.when ?? null,
      week: part('week')?.week ?? null,
      estimate: part('length')?.minutes ?? null,
      into: part('list')?.id ?? given.into,
      said: {
        ...given.said,
        ...(part('due') && { due: part('due')?.when ?? null }),
        ...(part('priority') && { priority: part('priority')?.priority ?? 0 }),
      },
      // Whom it is for travels by their account at the list's service; else the title says it.
      for: part('person')?.id ?? null,
    }
  }

  return {
    prepare,
    title: computed(() => entry.value.title || text.value.trim()),
    question: computed(() => ({
      words: entry.value.title,
      filter: entry.value.parts.flatMap(p => clauseOf(p, dayAt(session.now(), zone.value), zone.value)),
    })),
    parts: computed(() =>
      entry.value.parts.map(p => ({
        kind: p.kind,
        name: PART_NAME[p.kind],
        says: partWords(p, zone.value),
        words: p.words,
      })),
    ),
    takeBack: words => {
      back.value = [...back.value, words]
    },
    making,
  }
}
