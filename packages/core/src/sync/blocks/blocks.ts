import { epochOf } from '../../time/when.ts'
import { decision, ended, patchWrite, type PlanInput, removal } from '../lifecycle/decide.ts'
import { lensesOf } from '../lenses/index.ts'
import { mergePair, type Pair } from '../merge/merge.ts'
import type { Decision, Rule } from '../model/types.ts'

/**
 * A block reserves further time for a task. It has the task's title unless it was given its own; nothing
 * done to it changes the task, and deleting it only unplans that part.
 */
const titleOnly = new WeakMap<Rule, Rule>()

function blockRule(rule: Rule): Rule {
  const known = titleOnly.get(rule)
  if (known) return known
  const off = Object.fromEntries(
    Object.keys(rule.settings.fields).map(f => [f, 'off']),
  ) as Rule['settings']['fields']
  const made = { ...rule, settings: { ...rule.settings, fields: { ...off, title: 'a-to-b' as const } } }
  titleOnly.set(rule, made)
  return made
}

export function planBlock(input: PlanInput, { tie, a, b }: Pair): Decision[] {
  const rule = blockRule(input.rule)
  const pair = { tie, a, b }
  const { settings } = input.rule
  const letGo = (): Decision[] => [
    decision(
      rule,
      { effect: 'release', on: null, reason: 'block' },
      { ...pair, tie: ended(tie, 'block-removed') },
    ),
  ]
  if (b.presence === 'gone') return letGo()
  // A batch has its own title and time; a task that is gone is no longer in it.
  if (tie.role === 'batch') return a.presence === 'gone' ? letGo() : []
  const ahead = b.item.kind === 'event' && epochOf(b.item.time.anchor, rule.zone) >= input.now
  const takeAway = (): Decision[] =>
    settings.neverLoses.b || !rule.terms.b.writable
      ? letGo()
      : [
          decision(rule, { effect: 'remove', on: 'b', reason: 'block' }, pair, {
            writes: [removal(input.rule, tie, 'b', b, 'block-removed')],
          }),
        ]
  if (a.presence === 'gone') return settings.deleted.a === 'deleted' && ahead ? takeAway() : letGo()
  const closed = a.item.status === 'completed' || a.item.status === 'cancelled'
  if (closed && ahead && b.item.kind === 'event') {
    if (settings.blocksAhead === 'remove') return takeAway()
    if (settings.blocksAhead === 'free' && b.item.transparency === 'opaque')
      return [
        decision(rule, { effect: 'change', on: 'b', reason: 'block' }, pair, {
          writes: [
            {
              op: 'patch',
              side: 'b',
              tieId: tie.id,
              mirrorId: b.id,
              revision: b.revision,
              patch: { transparency: 'transparent' },
              fields: [{ field: 'completion', before: 'busy', after: 'free' }],
              expect: {},
              release: null,
            },
          ],
        }),
      ]
  }
  const named = titleOfItsOwn(rule, pair)
  if (named) return [named]
  const merged = mergePair(rule, pair)
  const write = patchWrite(rule, tie, 'b', b, merged)
  if (!write) {
    if (Object.keys(merged.agreed).length === 0) return []
    const agreed = { ...tie, base: { ...tie.base, ...merged.agreed } }
    return [decision(rule, { effect: 'none', on: null, reason: 'agreed' }, { ...pair, tie: agreed })]
  }
  return [
    decision(rule, { effect: 'change', on: 'b', reason: 'block' }, pair, {
      writes: [write],
      overridden: merged.overridden,
    }),
  ]
}

/** Somebody gave the block a title of its own: from then on it keeps that. */
function titleOfItsOwn(rule: Rule, pair: Pair): Decision | null {
  const { tie, b } = pair
  const title = lensesOf(rule).find(l => l.field === 'title')
  const base = tie.base.title
  if (tie.memory.ownTitle || !title || !base) return null
  if (title.same('b', title.read('b', b.item, base.b), base.b)) return null
  const kept = { ...tie, memory: { ...tie.memory, ownTitle: true } }
  return decision(rule, { effect: 'none', on: null, reason: 'block' }, { ...pair, tie: kept })
}
