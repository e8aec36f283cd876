import { randomUUID } from 'node:crypto'
import { defaultSettings, READY_MADE, type RuleSettings } from '@loom/core'
import type { Context } from '../context/context.ts'
import type { Sql } from '../data/database.ts'
import { json } from '../data/json.ts'
import { collectionNamed } from '../data/repositories/collections.ts'
import { addFirstVersions } from '../data/repositories/demo.ts'
import { addRule } from '../data/repositories/rules.ts'

/** The demo's rules, one of each kind that people begin with; the last two make a chain of three. */

interface DemoRule {
  name: string | null
  a: string
  b: string
  settings: RuleSettings
}

const kind = (id: string): RuleSettings => READY_MADE.find(r => r.id === id)?.settings ?? defaultSettings
/** Work of the ten weeks that are past takes part. */
const WEEKS = { backDays: 75 }

const rulesOf = (size: 'small' | 'whole'): DemoRule[] => {
  const festival = { name: null, a: 'Festival', b: 'Festival work' }
  if (size === 'small') return [{ ...festival, settings: defaultSettings }]
  return [
    { ...festival, settings: { ...defaultSettings, conflict: 'ask' } },
    {
      name: 'Teaching deadlines in sight',
      a: 'Teaching prep',
      b: 'Teaching deadlines',
      settings: { ...kind('deadlines-in-sight'), ...WEEKS },
    },
    {
      name: 'Anouk is away',
      a: 'Own time',
      b: 'Anouk away',
      settings: { ...kind('busy-elsewhere'), ...WEEKS },
    },
    {
      // At the one 5 presses most, at the other the lowest number does what the crew calls last.
      name: 'Volunteer jobs on the rota',
      a: 'Volunteer jobs',
      b: 'Rota jobs',
      settings: {
        ...kind('two-lists-as-one'),
        ...WEEKS,
        priorities: [
          { a: 1, b: 9 },
          { a: 3, b: 7 },
          { a: 7, b: 3 },
          { a: 9, b: 1 },
        ],
      },
    },
    {
      name: 'Time for the rota',
      a: 'Rota jobs',
      b: 'Volunteer rota',
      settings: { ...kind('time-for-tasks'), ...WEEKS, defaultMinutes: 90 },
    },
  ]
}

export async function makeRules(
  ctx: Context,
  sql: Sql,
  workspaceId: string,
  size: 'small' | 'whole',
): Promise<void> {
  for (const { name, a, b, settings } of rulesOf(size)) {
    const [from, to] = [
      await collectionNamed(sql, { workspaceId, name: a }),
      await collectionNamed(sql, { workspaceId, name: b }),
    ]
    if (from && to)
      await addRule(sql, {
        id: randomUUID(),
        workspaceId,
        name,
        a: from.id,
        b: to.id,
        settings: json(settings),
        now: ctx.now(),
      })
  }
  await addFirstVersions(sql, { workspaceId })
}
