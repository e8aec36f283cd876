import type { Mirror, PlanInput, Rule, Side } from '@loom/core'
import type { Sql } from '../../data/database.ts'
import { chunks } from '../../data/chunks.ts'
import { mirrorsById } from '../../data/repositories/mirrors.ts'
import { anyOtherRule } from '../../data/repositories/rules.ts'
import { pairsOfOtherRules, pairsOfRule, pairsEnding } from '../../data/repositories/ties.ts'

/** What rules that meet know of each other: which items are the same work already. */

/**
 * For untied items: items that other rules tie to the same work, on the other side of this rule. Ties are followed
 * all the way, so a ring of rules finds its beginning and makes nothing twice. Ties that ended because something
 * is made again count too, unless they belong to a round that is over.
 */
export async function transitiveTies(
  sql: Sql,
  rule: Rule,
  untied: Record<Side, Mirror[]>,
  busy: Set<string>,
): Promise<Required<Pick<PlanInput, 'transitive' | 'elsewhere'>>> {
  const transitive = new Map<string, Mirror>()
  const elsewhere = new Map<string, ReadonlySet<string>>()
  const others = await anyOtherRule(sql, { rule: rule.id, home: rule.home.a })
  if (!others) return { transitive, elsewhere }
  const group = new Map<string, Set<string>>()
  /** Where other rules would have a member: it may have been moved to another list since. */
  const homes = new Map<string, Set<string>>()
  let edge = [...untied.a, ...untied.b].map(m => m.id)
  for (const id of edge) group.set(id, new Set([id]))
  for (let depth = 0; depth < 8 && edge.length > 0; depth++) {
    const next = new Set<string>()
    for (const part of chunks(edge))
      for (const t of await pairsOfOtherRules(sql, { rule: rule.id, part })) {
        homes.set(t.a, (homes.get(t.a) ?? new Set()).add(t.a_home))
        homes.set(t.b, (homes.get(t.b) ?? new Set()).add(t.b_home))
        const one = group.get(t.a) ?? group.get(t.b) ?? new Set()
        for (const id of [t.a, t.b, ...(group.get(t.a) ?? []), ...(group.get(t.b) ?? [])]) {
          if (!one.has(id) || !group.has(id)) next.add(id)
          one.add(id)
        }
        for (const id of one) group.set(id, one)
      }
    edge = [...next]
  }
  // Something is being made for the same work: whether it is to be had here shows when it is there.
  const ending = await endingAmong(sql, [...group.values()])
  for (const m of [...untied.a, ...untied.b])
    if ([...(group.get(m.id) ?? [])].some(id => busy.has(id) || ending.has(id))) busy.add(m.id)
  const members = new Set([...group.values()].filter(g => g.size > 1).flatMap(g => [...g]))
  if (members.size === 0) return { transitive, elsewhere }
  const mirrors = await mirrorsById(sql, [...members])
  for (const [id, one] of group) {
    if (one.size === 1) continue
    const there = [...one].filter(o => mirrors.get(o)?.presence !== 'gone')
    elsewhere.set(id, new Set(there.flatMap(o => [...(homes.get(o) ?? [])])))
  }
  const tied = new Set<string>()
  for (const part of chunks([...members]))
    for (const t of await pairsOfRule(sql, { rule: rule.id, part }))
      for (const id of [t.a, t.b]) if (id) tied.add(id)
  for (const side of ['a', 'b'] as const) {
    const there = new Set(rule.collections[side === 'a' ? 'b' : 'a'])
    for (const m of untied[side]) {
      const one = [...(group.get(m.id) ?? [])].flatMap(id => mirrors.get(id) ?? [])
      const found = one.find(
        o =>
          o.id !== m.id &&
          o.presence === 'present' &&
          [o.collectionId, ...(homes.get(o.id) ?? [])].some(id => there.has(id)) &&
          !tied.has(o.id),
      )
      if (found) transitive.set(m.id, found)
    }
  }
  return { transitive, elsewhere }
}

/** Members of groups with a deletion, or an ended round, that its rule has not handled yet. */
async function endingAmong(sql: Sql, groups: Set<string>[]): Promise<Set<string>> {
  const ids = [...new Set(groups.filter(g => g.size > 1).flatMap(g => [...g]))]
  const found = new Set<string>()
  for (const part of chunks(ids)) for (const t of await pairsEnding(sql, { part })) found.add(t.a).add(t.b)
  return found
}
