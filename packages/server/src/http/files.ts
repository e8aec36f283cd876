import { sightIn } from '../access/sight.ts'
import { targetOfImport } from '../data/repositories/targets.ts'
import { zValidator } from '@hono/zod-validator'
import { type Comparison, CsvMapping, Filter, type Item } from '@loom/core'
import { Hono } from 'hono'
import { z } from 'zod'
import { bringIn, type Compared, compareAll, keyOf } from '../files/bring-in.ts'
import { exportFile } from '../files/export.ts'
import { readFile, rememberMapping } from '../files/read.ts'
import type { Context } from '../context/context.ts'
import type { Engine } from '../sync/engine/engine.ts'
import type { SignedIn } from './session.ts'

import type { Member } from '../data/repositories/sessions.ts'

/** Files in and out. */

export const MAX_FILE = 12_000_000
const SHOWN = 200

const Given = z.object({
  text: z.string().max(MAX_FILE),
  mapping: CsvMapping.nullable().default(null),
  /** Where new ones go. */
  into: z.object({ task: z.string().max(36).nullable(), event: z.string().max(36).nullable() }),
})
const Taken = Given.extend({
  takeNew: z.boolean(),
  takeChanged: z.boolean(),
  except: z.array(z.string().max(600)).max(20_000).default([]),
})
const Wanted = z.object({
  format: z.enum(['ics', 'jscalendar', 'csv']),
  collections: z.string().max(20_000).default(''),
  filter: z.string().max(20_000).default('[]'),
  from: z.iso.date().optional(),
  to: z.iso.date().optional(),
})

const NOT_A_FILE = {
  reason:
    'This is neither a calendar file (.ics), nor JSCalendar, nor a table with a line of headings. Nothing was brought in.',
}

const whenOf = (item: Item) => (item.kind === 'event' ? item.time.anchor : (item.start ?? item.due))
const fieldsIn = (c: Comparison): string[] => (c.kind === 'changed' ? Object.keys(c.patch) : [])

export function fileRoutes(ctx: Context, engine: Engine) {
  const read = (member: Member, text: string, mapping: CsvMapping | null) =>
    readFile(ctx.db, { workspaceId: member.workspaceId, zone: member.zone, now: ctx.now() }, text, mapping)
  const target = async (member: Member, id: string | null, itemKind: 'task' | 'event') =>
    id !== null && (await sightIn(ctx.db, member)).sees(id, 'change')
      ? targetOfImport(ctx.db, { id, workspaceId: member.workspaceId, itemKind })
      : null
  return new Hono<SignedIn>()
    .post('/read', zValidator('json', Given), async c => {
      const member = c.get('member')
      const { text, mapping, into } = c.req.valid('json')
      const file = await read(member, text, mapping)
      if (!file) return c.json(NOT_A_FILE, 422)
      const { entries, problems } = file.contents
      const places = [into.task, into.event].filter(id => id !== null)
      const compared = await compareAll(ctx.db, member, entries, places)
      const of = (kind: Comparison['kind']) => compared.filter(e => e.comparison.kind === kind)
      const shown = ({ entry, comparison }: Compared) => ({
        key: keyOf(entry),
        kind: entry.item.kind,
        title: entry.item.summary || 'Untitled',
        when: whenOf(entry.item),
        repeats: entry.item.recurring,
        fields: fieldsIn(comparison),
        reason: comparison.kind === 'apart' ? comparison.reason : null,
      })
      return c.json({
        format: file.format,
        table: file.table,
        counts: {
          task: entries.filter(e => e.item.kind === 'task').length,
          event: entries.filter(e => e.item.kind === 'event').length,
          new: of('new').length,
          changed: of('changed').length,
          same: of('same').length,
          apart: of('apart').length,
          problems: problems.length,
        },
        new: of('new').slice(0, SHOWN).map(shown),
        changed: of('changed').slice(0, SHOWN).map(shown),
        apart: of('apart').slice(0, SHOWN).map(shown),
        problems: problems.slice(0, SHOWN),
      })
    })
    .post('/bring-in', zValidator('json', Taken), async c => {
      const member = c.get('member')
      const { text, mapping, into, takeNew, takeChanged, except } = c.req.valid('json')
      const file = await read(member, text, mapping)
      if (!file) return c.json(NOT_A_FILE, 422)
      const places = [into.task, into.event].filter(id => id !== null)
      const compared = await compareAll(ctx.db, member, file.contents.entries, places)
      const left = new Set(except)
      const wanted = compared.filter(
        ({ entry, comparison: { kind } }) =>
          ((kind === 'new' && takeNew) || (kind === 'changed' && takeChanged)) && !left.has(keyOf(entry)),
      )
      const [task, event] = [
        await target(member, into.task, 'task'),
        await target(member, into.event, 'event'),
      ]
      const done = await bringIn(ctx, member, wanted, { task, event })
      if (file.table)
        await rememberMapping(ctx.db, member.workspaceId, file.table.headings, file.table.mapping)
      for (const id of done.connections) engine.kick(id)
      return c.json({ made: done.made, changed: done.changed, left: done.left.slice(0, SHOWN) })
    })
    .get('/export', zValidator('query', Wanted), async c => {
      const { format, collections, filter, from, to } = c.req.valid('query')
      const parsed = Filter.safeParse(jsonOf(filter))
      if (!parsed.success) return c.json({ reason: 'This selection is not understood.' }, 422)
      const selection = {
        collections: collections.split(',').filter(Boolean),
        filter: parsed.data,
        from: from ?? null,
        to: to ?? null,
      }
      const file = await exportFile(ctx, c.get('member'), format, selection)
      return c.body(file.text, 200, {
        'Content-Type': file.type,
        'Content-Disposition': `attachment; filename="${file.name}"`,
        'X-Items': String(file.count),
      })
    })
}

function jsonOf(text: string): unknown {
  try {
    return JSON.parse(text)
  } catch {
    return null
  }
}
