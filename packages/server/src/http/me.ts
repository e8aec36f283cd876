import { zValidator } from '@hono/zod-validator'
import { isKnownZone, PersonSettings, settingsOfPerson } from '@loom/core'
import { Hono } from 'hono'
import { z } from 'zod'
import type { Context } from '../context/context.ts'
import type { SignedIn } from './session.ts'
import { settingsOfMember, putMemberSettings } from '../data/repositories/members.ts'
import { parsed, json } from '../data/json.ts'

/** A member's own settings. Those of others cannot be read or changed here. */

const Mine = z.object({
  zone: z.string().max(64).refine(isKnownZone, 'There is no such time zone.').optional(),
  settings: PersonSettings.partial(),
})

export function meRoutes(ctx: Context) {
  const read = (row: Awaited<ReturnType<typeof settingsOfMember>>) => {
    const settings = settingsOfPerson(row?.settings ? parsed(row.settings) : {})
    return { ...settings, dailySummary: row?.daily_summary === 1 }
  }
  return new Hono<SignedIn>()
    .get('/', async c => {
      const { id, name, zone } = c.get('member')
      const row = await settingsOfMember(ctx.db, { id })
      return c.json({ id, name, zone, settings: read(row), summaryTrouble: row?.summary_trouble ?? null })
    })
    .put('/', zValidator('json', Mine), async c => {
      const { id, workspaceId } = c.get('member')
      const { zone, settings } = c.req.valid('json')
      const whole = { ...read(await settingsOfMember(ctx.db, { id })), ...settings }
      await ctx.db.commit(async sql => {
        await putMemberSettings(sql, {
          id,
          zone: zone ?? null,
          summary: whole.dailySummary ? 1 : 0,
          settings: json(whole),
        })
        sql.tell(workspaceId, { topics: ['cloth'] })
      })
      return c.json({ settings: whole })
    })
}
