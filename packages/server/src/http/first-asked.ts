import { datesShown, dayAt, plainView, settingsOfPerson, viewOf } from '@loom/core'
import type { MiddlewareHandler } from 'hono'
import { getCookie } from 'hono/cookie'
import type { Sessions } from '../access/sessions.ts'
import type { Context } from '../context/context.ts'
import { parsed } from '../data/json.ts'
import { settingsOfMember } from '../data/repositories/members.ts'
import type { Member } from '../data/repositories/sessions.ts'
import { viewsFor } from '../team/views-for.ts'
import { COOKIE } from './session.ts'

/**
 * Tells the browser with the page what the page will ask for first, so that it is on its way while the code is still
 * being read. The page asks for the same by itself, and of a wrong guess nothing comes but one answer too many.
 */

const DATE = /^\d{4}-\d\d-\d\d$/
/** On a telephone the page begins with a list, which has other days. */
const WIDE = '; media="(min-width: 601px)"'

const preload = (href: string, more = ''): string => `<${href}>; rel=preload; as=fetch; crossorigin${more}`

/** @param asked what the page's address says: the day, and the saved view or `none` */
async function daysFirst(
  ctx: Context,
  member: Member,
  asked: { at?: string; view?: string },
): Promise<string> {
  const row = await settingsOfMember(ctx.db, { id: member.id })
  const settings = settingsOfPerson(row?.settings ? parsed(row.settings) : {})
  const id = asked.view ?? settings.view
  const [saved] = id === null || id === 'none' ? [] : await viewsFor(ctx.db, member, id)
  const view = saved ? viewOf(parsed(saved.row.body)) : plainView
  const at = asked.at !== undefined && DATE.test(asked.at) ? asked.at : dayAt(ctx.now(), member.zone)
  const dates = datesShown(view, at, settings.weekStart)
  return `/api/cloth?from=${dates[0] ?? at}&days=${dates.length}`
}

export function firstAsked(ctx: Context, sessions: Sessions): MiddlewareHandler {
  return async (c, next) => {
    const token = getCookie(c, COOKIE)
    try {
      const member = token ? await sessions.memberOf(token) : null
      if (member && member.owes === null) {
        const days = await daysFirst(ctx, member, { at: c.req.query('at'), view: c.req.query('view') })
        c.header('Link', [preload('/api/me'), preload('/api/views'), preload(days, WIDE)].join(', '))
      }
    } catch (error) {
      // The page says it, once it asks by itself.
      ctx.log.debug({ err: error }, 'what a page asks for first was not told')
    }
    await next()
  }
}
