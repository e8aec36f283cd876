import { type ClothItem, dayAt, hasSlipped } from '@loom/core'
import { unlowered } from '../access/sight.ts'
import type { Context } from '../context/context.ts'
import type { Sql } from '../data/database.ts'
import { harmsOnlyItself } from '../data/harm.ts'
import { json, parsed } from '../data/json.ts'
import { teamOfWorkspace } from '../data/repositories/members.ts'
import {
  type CountedTo,
  lockNight,
  nightOf,
  putNight,
  workspacesAtWork,
} from '../data/repositories/nights.ts'
import { dropOldLaid } from '../data/repositories/kept-up.ts'
import { noteFirstSlip, putOwnLayer } from '../data/repositories/own-layer.ts'
import { deleteEntry, markFinished, removedBefore } from '../data/repositories/time-entries.ts'
import { clothOf, DEFAULT_MINUTES, readCloth } from '../view/cloth.ts'
import { noteAttended, tookPlace } from './attended.ts'

/**
 * When a day ends in somebody's zone, what was planned for it and not done is counted as a slip, once, and what was
 * meant for a week that is over goes on to the present one. What took place goes into the ledgers, as assumed. Only what
 * is ours is written: what was planned stays as it was, at every service. It needs nobody to look.
 */

const LOOK_MS = 60_000

export class Nights {
  constructor(private readonly ctx: Context) {}

  start(): void {
    const count = (): Promise<unknown> => this.countDue()
    this.ctx.background.every('count what slipped', LOOK_MS, count)
    this.ctx.background.run('count what slipped', count)
  }

  /** Returns how many slips were counted. */
  async countDue(): Promise<number> {
    let slips = 0
    for (const { id } of await workspacesAtWork(this.ctx.db))
      try {
        slips += await this.count(id)
      } catch (error) {
        // One workspace that cannot be counted holds up no other; the next look tries again.
        this.ctx.log.error({ err: error, workspaceId: id }, 'could not count what slipped')
      }
    return slips
  }

  private async count(workspaceId: string): Promise<number> {
    const team = await teamOfWorkspace(this.ctx.db, { workspaceId })
    const now = this.ctx.now()
    const days: CountedTo = Object.fromEntries(team.map(m => [m.zone, dayAt(now, m.zone)]))
    const known = await nightOf(this.ctx.db, { workspaceId })
    if (known && isSame(parsed(known.counted), days)) return 0
    const zones = new Map(team.map(m => [m.id, m.zone]))
    // What is nobody's is the coordinator's who has been here longest.
    const [first] = team
      .filter(m => m.role === 'coordinator')
      .sort((x, y) => x.joined_at - y.joined_at || (x.id < y.id ? -1 : 1))
    const home = first?.zone ?? team[0]?.zone ?? 'UTC'
    const zoneOf = ({ people }: ClothItem): string => zones.get(people[0] ?? '') ?? home
    if (known) await this.attended(workspaceId, team, parsed(known.counted), days)
    return this.ctx.db.commit(async sql => {
      const before = await lockNight(sql, { workspaceId })
      const counted = before ? parsed(before.counted) : {}
      await putNight(sql, { workspaceId, counted: json({ ...counted, ...days }) })
      const slipped = (await itemsOf(sql, workspaceId, home, now)).flatMap(item => {
        const zone = zoneOf(item)
        const [since, today] = [counted[zone], days[zone]]
        // In a zone that is new here, counting begins today.
        const slip = since && today && since < today ? hasSlipped(item, { since, today, zone }) : null
        return slip ? [{ item, ...slip }] : []
      })
      await tidyLedgers(sql, workspaceId, now)
      await dropOldLaid(sql, { workspaceId, before: now - LAID_MS, passesBefore: now - PASSES_MS })
      for (const { item, week } of slipped) {
        await putOwnLayer(sql, workspaceId, item.key, { slips: item.slips + 1, ...(week && { week }) })
        await noteFirstSlip(sql, { mirrorId: item.key, now })
      }
      if (slipped.length > 0)
        sql.tell(
          workspaceId,
          { topics: ['cloth'], exact: true },
          slipped.map(s => s.item.key),
        )
      return slipped.length
    })
  }

  /**
   * What took place on the days that are over, each person's by itself: it can be noted again, so whatever comes between
   * loses nothing, and what cannot be noted of one keeps nothing of another.
   */
  private async attended(
    workspaceId: string,
    team: Awaited<ReturnType<typeof teamOfWorkspace>>,
    counted: CountedTo,
    days: CountedTo,
  ): Promise<void> {
    const { db, log } = this.ctx
    const now = this.ctx.now()
    for (const [zone, today] of Object.entries(days)) {
      const since = counted[zone]
      if (!since || since >= today) continue
      const took = await db.snapshot(sql => tookPlace(sql, workspaceId, { since, today, zone, now }))
      for (const person of team.filter(m => m.zone === zone))
        try {
          await db.commit(sql => noteAttended(sql, { ...person, workspaceId }, took, now))
        } catch (error) {
          if (!harmsOnlyItself(error)) throw error
          log.error({ err: error, memberId: person.id }, 'could not note what took place')
        }
    }
  }
}

/** What has been removed for a day is gone for good. */
async function tidyLedgers(sql: Sql, workspaceId: string, now: number): Promise<void> {
  await markFinished(sql, { workspaceId })
  for (const { id } of await removedBefore(sql, { workspaceId, before: now - DAY_MS }))
    await deleteEntry(sql, { id })
}

const DAY_MS = 86_400_000
/** What was laid is over then, and what was moved by itself is told no longer. */
const LAID_MS = 2 * DAY_MS
const PASSES_MS = 30 * DAY_MS

const isSame = (counted: CountedTo, days: CountedTo): boolean =>
  Object.entries(days).every(([zone, day]) => counted[zone] === day)

/** Open tasks of a workspace, with what was planned for days that are over. */
async function itemsOf(sql: Sql, workspaceId: string, zone: string, now: number): Promise<ClothItem[]> {
  const span = { from: dayAt(now, zone), days: 1 }
  const viewer = { zone, defaultMinutes: DEFAULT_MINUTES, now }
  const reading = await readCloth(sql, { workspaceId, ...span }, viewer, null)
  // What no service has yet has nothing of ours to be counted on.
  return clothOf(reading, unlowered, span, viewer, () => zone).filter(i => !i.key.startsWith('new '))
}
