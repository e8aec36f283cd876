import { type Match } from '../merge/match.ts'
import {
  type Identity,
  type Mirror,
  otherSide,
  type Rule,
  type Side,
  SIDES,
  type Tie,
} from '../model/types.ts'
import type { PlanInput } from './decide.ts'
import { isAdmitted } from './taking-part.ts'
import { repeats } from '../model/rounds.ts'

/**
 * Two workspaces on the same list and calendar know nothing of each other. So the uid of what a rule makes says for
 * which item of which service it was made: both would give the same one, the service takes it once, and whoever finds
 * it knows whose counterpart it is.
 *
 *   loom-<of which service>-<for which item>.<which of its counterparts>
 */
const OURS = 'loom-'

type IdFor = PlanInput['idFor']

const markOfService = (idFor: IdFor, { service }: Pick<Identity, 'service'>): string =>
  `${OURS}${idFor(service).slice(0, 8)}-`

/** The uid of what a person makes for an item of a service: a further block of a task. `random` is of nothing else. */
export const uidOfBlock = (idFor: IdFor, of: Pick<Identity, 'service'>, random: string): string =>
  `${markOfService(idFor, of)}${random}`

/** What the uids begin with of all that is made for an item of this side, in that list of it; the same in every workspace. */
function markOf(idFor: IdFor, rule: Rule, side: Side, m: Mirror, list = m.collectionId): string {
  const { service, by, lists } = rule.terms[side].identity
  const id = by === 'uid' ? `${lists[list] ?? ''} ${m.item.uid}` : m.remoteId
  return `${markOfService(idFor, rule.terms[side].identity)}${idFor(`made for ${rule.settings.date} ${service} ${id}`)}.`
}

/** Items by the marks of what may have been made for them; first of all where they are, then in the lists they may come from. */
function byMark(idFor: IdFor, rule: Rule, side: Side, items: readonly Mirror[]): Map<string, Mirror> {
  const { by, lists } = rule.terms[side].identity
  const found = new Map<string, Mirror>()
  const add = (m: Mirror, list?: string): void => {
    const mark = markOf(idFor, rule, side, m, list)
    if (!found.has(mark)) found.set(mark, m)
  }
  for (const m of items) add(m)
  if (by === 'uid') for (const m of items) for (const list of Object.keys(lists)) add(m, list)
  return found
}

/**
 * The uid of a counterpart. What has been made here under it, for this item or for another copy of it, keeps it: then
 * this one gets another, which no other workspace would give.
 */
export function uidOfMade(
  { rule, idFor, usedUids }: Pick<PlanInput, 'rule' | 'idFor' | 'usedUids'>,
  side: Side,
  m: Mirror,
  generation: string,
): string {
  const to = otherSide(side)
  const { service, lists } = rule.terms[to].identity
  const home = lists[rule.home[to]] ?? ''
  const which = `${rule.kinds[to]} ${service} ${home}`
  const mark = markOf(idFor, rule, side, m)
  const uid = `${mark}${idFor(which)}`
  return usedUids?.has(uid) ? `${mark}${idFor(`${which} ${rule.id} ${m.id} ${generation}`)}` : uid
}

/** Whether a rule made it, here or elsewhere. */
export const isMadeByRule = (uid: string): boolean => uid.startsWith(OURS)

/** What such a uid says that it was made for. */
const markIn = (uid: string): string => uid.slice(0, uid.indexOf('.') + 1)

/** It had no counterpart yet, or is to have one again. */
const mayHaveAnother = (last: Tie | undefined): boolean => !last || last.released?.endsWith('-again') === true

/**
 * What another workspace made for an item of the other side's service: the counterpart of that item, if it stands here
 * untied, and in any case nobody's new item. What other rules of this workspace tie is theirs to say.
 */
export function madeElsewhere(
  untied: Record<Side, readonly Mirror[]>,
  input: PlanInput,
): { pairs: Match[]; strays: Mirror[] } {
  const { rule, released, transitive, elsewhere, idFor } = input
  const pairs: Match[] = []
  const strays: Mirror[] = []
  const taken = new Set<string>()
  for (const side of SIDES) {
    const other = otherSide(side)
    const ofService = markOfService(idFor, rule.terms[other].identity)
    const made = untied[side].filter(
      m =>
        m.item.uid.startsWith(ofService) &&
        !released.has(m.id) &&
        !elsewhere?.has(m.id) &&
        !input.copies?.has(m.id),
    )
    if (made.length === 0) continue
    const sources = byMark(idFor, rule, other, untied[other])
    for (const m of made) {
      const source = sources.get(markIn(m.item.uid))
      const fits =
        source &&
        !taken.has(source.id) &&
        mayHaveAnother(released.get(source.id)) &&
        !transitive?.has(source.id) &&
        isAdmitted(rule, other, source.item, input.now) &&
        [source, m].every(i => repeats(i.item) !== 'by-itself')
      if (!fits) {
        strays.push(m)
        continue
      }
      taken.add(source.id)
      pairs.push(side === 'a' ? { a: m, b: source } : { a: source, b: m })
    }
  }
  return { pairs, strays }
}
