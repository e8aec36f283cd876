import { addDays, CategoryNames, mondayOf, type WorkingHours } from '@loom/core'
import {
  type Grouping,
  lessonsOf,
  type Lesson,
  type Period,
  type PeriodSum,
  periodSums,
  type TaskTaken,
  teamWeek,
  type Unbroken,
  unbrokenOf,
  usualWithoutEstimate,
} from '@loom/core/ledger'
import type { Sql, Tx } from '../data/database.ts'
import { json, parsed } from '../data/json.ts'
import { categoriesOf } from '../data/repositories/categories.ts'
import { teamOfWorkspace } from '../data/repositories/members.ts'
import {
  meetingSpans,
  sumsOf,
  tasksTaken,
  tellWeek,
  toldWeeks,
  weekOfTeam,
} from '../data/repositories/time-report.ts'
import type { Keeper } from './ledger.ts'

/** Where the time went: one's own, and what may be told of the team's. */

export interface ReportTerms {
  /** `YYYY-MM-DD`, in the person's zone; `to` is the day after the last. */
  from: string
  to: string
  by: Grouping
  period: Period
}

export interface TimeReport {
  periods: PeriodSum[]
  /** Done, by when time last went into them, the latest first. */
  tasks: (TaskTaken & { day: string; uid: string })[]
  lessons: Lesson[]
  withoutEstimate: { minutes: number; of: number } | null
  unbroken: Unbroken | null
  /** Minutes in meetings, and of everything. */
  meetings: { minutes: number; of: number }
  /** Minutes of planned time of tasks that are done, of which nobody has said that they were spent so. */
  unsaid: number
}

/** As many points as a chart can show. */
const MOST_TASKS = 400
const MOST_MEETINGS = 5_000
/** What was longer ago says nothing of how days are now. */
const UNBROKEN_DAYS = 12 * 7
const KIND_NAMES: Record<string, string> = {
  task: 'Tasks',
  meeting: 'Meetings and appointments',
  focus: 'Focus',
  travel: 'Travel',
  other: 'Other events',
}
const NO_NAME = { category: 'No category', list: 'No list', kind: 'Other events' }
const PRIVATE = 'Private'

const none = (name: string, by: Grouping): string => (name === '' ? NO_NAME[by] : name)

/** What a word of a service is called here. */
export async function namesIn(
  sql: Sql,
  workspaceId: string,
  by: Grouping,
): Promise<(word: string) => string> {
  if (by === 'kind') return word => KIND_NAMES[word] ?? word
  if (by === 'list') return word => none(word, by)
  const names = new CategoryNames(await categoriesOf(sql, { workspaceId }))
  return word => (word === '' ? NO_NAME.category : names.nameOf(word))
}

export async function timeReport(
  sql: Sql,
  keeper: Keeper,
  hours: WorkingHours,
  { from, to, by, period }: ReportTerms,
): Promise<TimeReport> {
  const at = { memberId: keeper.id, from, to }
  const nameOf = await namesIn(sql, keeper.workspaceId, by)
  const categoryOf = await namesIn(sql, keeper.workspaceId, 'category')
  const sums = await sumsOf(sql, { ...at, by, period })
  const rows = await tasksTaken(sql, { ...at, limit: MOST_TASKS })
  const tasks = rows.map(r => ({
    key: r.item_key,
    uid: r.uid,
    title: r.title,
    category: categoryOf(r.category),
    estimate: r.estimate === null ? null : Number(r.estimate),
    taken: Number(r.taken),
    day: r.day,
  }))
  const total = (of: typeof sums): number => of.reduce((x, s) => x + Number(s.minutes), 0)
  const lately = { from: from < addDays(to, -UNBROKEN_DAYS) ? addDays(to, -UNBROKEN_DAYS) : from, to }
  const meetings = await meetingSpans(sql, { ...at, ...lately, limit: MOST_MEETINGS })
  return {
    periods: periodSums(
      sums.map(s => ({ day: s.day, name: nameOf(s.name), minutes: Number(s.minutes) })),
      { from, to, period, hours },
    ),
    tasks,
    lessons: lessonsOf(tasks),
    withoutEstimate: usualWithoutEstimate(tasks),
    unbroken: unbrokenOf(
      meetings.map(m => ({ fromMs: Number(m.fromMs), toMs: Number(m.toMs) })),
      { ...lately, hours },
    ),
    meetings: { minutes: total(sums.filter(s => s.kind === 'meeting')), of: total(sums) },
    unsaid: sums.reduce((x, s) => x + Number(s.unsaid), 0),
  }
}

export interface TeamWeeks {
  weeks: { week: string; by: Record<string, number> | null }[]
}

/** A week may be told once it has been over for so many days: by then everybody's is written down. */
const SETTLED_DAYS = 2

/**
 * Figures of whole weeks, by category. What is told of a week is settled when the first asks, and stays so: from what
 * is written down later nothing can be worked out.
 * @param today in the zone of whoever asks
 */
export async function teamWeeks(
  sql: Tx,
  { workspaceId }: Keeper,
  today: string,
  from: string,
  to: string,
): Promise<TeamWeeks> {
  const nameOf = await namesIn(sql, workspaceId, 'category')
  const told = new Map(
    (await toldWeeks(sql, { workspaceId, from: mondayOf(from), to })).map(t => [t.week, parsed(t.body)]),
  )
  const weeks: TeamWeeks['weeks'] = []
  for (let week = mondayOf(from); week < to; week = addDays(week, 7)) {
    if (week < from || addDays(week, 7) > to || addDays(week, 7 + SETTLED_DAYS) > today) continue
    const known = told.get(week)
    const by = known !== undefined ? known : await settled(sql, workspaceId, week, nameOf)
    weeks.push({ week, by })
  }
  return { weeks }
}

async function settled(
  sql: Tx,
  workspaceId: string,
  week: string,
  nameOf: (word: string) => string,
): Promise<Record<string, number> | null> {
  const team = await teamOfWorkspace(sql, { workspaceId })
  const span = { from: week, to: addDays(week, 7) }
  const by = new Map(team.map(m => [m.id, new Map<string, number>()]))
  for (const { memberId, name, minutes } of await weekOfTeam(sql, {
    workspaceId,
    ...span,
    privately: PRIVATE,
  })) {
    const shown = name === PRIVATE ? PRIVATE : nameOf(name)
    const mine = by.get(memberId)
    mine?.set(shown, (mine.get(shown) ?? 0) + Number(minutes))
  }
  const told = teamWeek([...by.values()].map(m => Object.fromEntries(m)))
  await tellWeek(sql, { workspaceId, week, body: json(told) })
  const [as] = await toldWeeks(sql, { workspaceId, ...span })
  return as ? parsed(as.body) : told
}
