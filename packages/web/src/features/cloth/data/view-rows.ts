import { type CellRow, cellRows, type ClothItem, isoWeekOf, type RowOf, type ViewBody } from '@loom/core/view'
import type { WorkingHours } from '@loom/core/view'
import type { Source } from './signs.ts'
import type { ClothData } from './use-cloth.ts'

/** The rows that a view draws: one for each person, for each source, or one for everything. */

const NOBODY = 'nobody'

interface Terms {
  me: string
  people: ClothData['people']
  sources: readonly Source[]
  /** The viewer's own. */
  hours: WorkingHours
}

export function rowsOfView(view: ViewBody, shown: readonly ClothItem[], terms: Terms): RowOf[] {
  if (view.span === 'month' || view.rows === 'days') return [everything(terms)]
  return view.rows === 'people' ? rowsOfPeople(shown, terms) : rowsOfSources(view, shown, terms)
}

function everything({ me, hours }: Terms): RowOf {
  const counts = (i: ClothItem): boolean => i.people.length === 0 || i.people.includes(me)
  return { key: 'all', title: '', hours, contains: () => true, counts }
}

function rowsOfPeople(shown: readonly ClothItem[], { people, hours }: Terms): RowOf[] {
  const rows = people.map((p): RowOf => ({
    key: p.id,
    title: p.name,
    hours: p.hours,
    contains: i => i.people.includes(p.id),
  }))
  const strays = shown.some(i => i.people.length === 0 && i.place.kind !== 'none')
  const nobody: RowOf = { key: NOBODY, title: 'Nobody', hours, contains: i => i.people.length === 0 }
  return strays ? [...rows, nobody] : rows
}

function rowsOfSources(
  { hidden }: ViewBody,
  shown: readonly ClothItem[],
  { sources, hours }: Terms,
): RowOf[] {
  const drawn = new Set(shown.flatMap(i => (i.place.kind === 'none' ? [] : i.sources)))
  return sources
    .filter(s => !hidden.includes(s.id) && drawn.has(s.id))
    .map((s): RowOf => ({ key: s.id, title: s.name, hours, contains: i => i.sources.includes(s.id) }))
}

/** A month, a row for each week, named by its number. */
export function weeksOf(
  shown: readonly ClothItem[],
  rows: readonly RowOf[],
  dates: readonly string[],
  options: Parameters<typeof cellRows>[3],
): CellRow[] {
  const weeks: CellRow[] = []
  for (let i = 0; i < dates.length; i += 7) {
    const week = dates.slice(i, i + 7)
    const [row] = cellRows(shown, rows, week, options)
    if (row) weeks.push({ ...row, key: week[0] ?? '', title: String(isoWeekOf(week[3] ?? week[0] ?? '')) })
  }
  return weeks
}
