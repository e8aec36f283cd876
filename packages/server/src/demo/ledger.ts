import { randomUUID } from 'node:crypto'
import { addDays, dayAt, epochOf, MINUTE, mondayOf, zoned } from '@loom/core'
import type { Context } from '../context/context.ts'
import type { Tx } from '../data/database.ts'
import { finishEntries, taskTitled } from '../data/repositories/demo.ts'
import { teamOfWorkspace } from '../data/repositories/members.ts'
import { noteFirstSlip, putOwnLayer } from '../data/repositories/own-layer.ts'
import { type Keeper, note } from '../ledger/ledger.ts'
import { noteAttended, tookPlace } from '../planning/attended.ts'

/**
 * Ten weeks of time taken: the meetings that took place, and work of each person on tasks that are done and gone. Some
 * kinds of work take longer than they are thought to.
 */

const WEEKS = 10
const DAY_MS = 86_400_000

interface Kind {
  category: string
  list: string
  /** So many times as long as estimated. */
  factor: number
  titles: readonly string[]
}

const REPAIRS: Kind = {
  category: 'Glasshouses',
  list: 'Small repairs',
  factor: 1.6,
  titles: [
    'Reseat the sluice',
    'Rehang a vent',
    'Putty two panes',
    'Splice the rope',
    'Grease the winch',
    'Patch the gutter',
  ],
}
const NIGHT: Kind = {
  category: 'Night walk',
  list: 'Festival',
  factor: 1,
  titles: [
    'Draft a route board',
    'Try torches',
    'Plant a night bed',
    'Write to lenders',
    'Measure the pond side',
    'Proof a leaflet',
  ],
}
const SCHOOLS: Kind = {
  category: 'Schools',
  list: 'Teaching prep',
  factor: 1.2,
  titles: [
    'Cut moss samples',
    'Copy leaf cards',
    'Answer a school',
    'Fill the bug hotel',
    'Draw a beech key',
  ],
}
const HANDS: Kind = {
  category: 'Volunteers',
  list: 'Volunteer jobs',
  factor: 0.9,
  titles: ['Ring the crew', 'Sort gloves', 'Plan a Saturday', 'Thank the helpers', 'Lay out tools'],
}
const OFFICE: Kind = {
  category: '',
  list: 'Own tasks',
  factor: 1,
  titles: ['Read the post', 'File receipts', 'Answer the trustees', 'Tidy the ledger'],
}

const WORK: Record<string, readonly Kind[]> = {
  'Ines Varga': [NIGHT, REPAIRS, OFFICE, NIGHT, HANDS],
  'Tobias Lund': [REPAIRS, REPAIRS, NIGHT, HANDS],
  'Anouk Thapa': [SCHOOLS, NIGHT, OFFICE, REPAIRS],
  'Mei Okoro': [SCHOOLS, SCHOOLS, NIGHT, HANDS],
  'Rafael Quint': [HANDS, NIGHT, REPAIRS, SCHOOLS],
  'Bram Castelijn': [NIGHT, REPAIRS, SCHOOLS, HANDS],
}
/** When work begins, and what is thought to be needed for it, minutes. */
const STARTS = ['09:40', '11:10', '13:10', '15:00', '16:20']
const ESTIMATES = [30, 60, 90, 45, 120, null, 60]
/** How much longer or shorter single tasks take than others of their kind. */
const VARIES = [1, 0.85, 1.15, 1.05, 0.9, 1.25, 0.95]

const at = <T>(of: readonly T[], n: number): T => of[n % of.length] as T

/** What was put off again and again: how often, and for how many weeks. */
const SLIPPED = [
  ['Check frost alarms', 5, 8],
  ['Gutter survey, House 1', 3, 3],
  ['Boiler valve quote', 2, 2],
] as const

/** @param workspaceId of the demo */
export async function keepLedger(ctx: Context, workspaceId: string): Promise<void> {
  const team = (await teamOfWorkspace(ctx.db, { workspaceId })).map(m => ({ ...m, workspaceId }))
  for (const [person, keeper] of team.entries()) {
    const today = dayAt(ctx.now(), keeper.zone)
    const since = addDays(mondayOf(today), -7 * WEEKS)
    const terms = { since, today, zone: keeper.zone, now: ctx.now() }
    const took = await ctx.db.snapshot(sql => tookPlace(sql, workspaceId, terms))
    await ctx.db.commit(async sql => {
      await noteAttended(sql, keeper, took, terms.now)
      for (let day = since, n = person * 3; day < today; day = addDays(day, 1))
        if (mondayOf(addDays(day, 2)) === mondayOf(day)) n = await workOn(sql, keeper, day, n)
      await finishEntries(sql, { memberId: keeper.id })
    })
  }
  for (const [title, slips, weeks] of SLIPPED) {
    const task = await taskTitled(ctx.db, { title })
    if (!task || task.workspace !== workspaceId) continue
    await ctx.db.commit(async sql => {
      await putOwnLayer(sql, workspaceId, task.id, { slips })
      await noteFirstSlip(sql, { mirrorId: task.id, now: ctx.now() - weeks * 7 * DAY_MS })
      sql.tell(workspaceId, { topics: ['cloth'], exact: true }, [task.id])
    })
  }
}

/** The work of one day. `n` counts tasks, so that no two weeks are alike; the next one is returned. */
async function workOn(sql: Tx, keeper: Keeper & { name: string }, day: string, n: number): Promise<number> {
  const kinds = WORK[keeper.name] ?? [OFFICE]
  const pieces = 3 + (n % 2)
  for (let piece = 0; piece < pieces; piece++, n++) {
    const kind = at(kinds, n)
    const estimate = at(ESTIMATES, n + piece)
    const minutes = Math.round(((estimate ?? 40) * kind.factor * at(VARIES, n * 3 + piece)) / 5) * 5
    const fromMs = epochOf(zoned(`${day}T${at(STARTS, n + 2 * piece)}:00`, keeper.zone), keeper.zone)
    await note(sql, keeper, fromMs, {
      time: { fromMs, toMs: fromMs + minutes * MINUTE },
      day,
      source: n % 3 === 0 ? 'hand' : 'clock',
      assumed: false,
      ref: null,
      about: {
        key: null,
        uid: randomUUID(),
        title: at(kind.titles, n),
        list: kind.list,
        category: kind.category,
        kind: 'task',
        estimate,
        private: false,
      },
    })
  }
  return n
}
