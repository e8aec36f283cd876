import { type Decision, type Field, type Item, type Rule, sameValue, type Side } from '../../src/index.ts'
import { shown } from './titles.ts'
import type { World } from './world.ts'

/** What is decided against the rule's own words, or against what people did when. */
export function mustBeRight(world: World, rule: Rule, d: Decision): void {
  for (const o of d.overridden) {
    const [loser, winner] = o.side === 'a' ? [d.a, d.b] : [d.b, d.a]
    const read = { title: shown, notes: (i: Item) => i.description, other: null }[
      o.field === 'title' || o.field === 'notes' ? o.field : 'other'
    ]
    if (
      o.because === 'newer' &&
      world.rules.length === 1 &&
      read &&
      loser &&
      winner &&
      !rule.settings.title.replace('{title}', '')
    ) {
      const at = (id: string): number => world.serviceOf(id).changedAt(world.standing(id)?.id ?? '', read)
      const said = (i: Item | undefined): string | undefined => i && read(i)
      // What a listing has not shown yet could not be weighed; and of several edits that a late one shows at once,
      // it cannot be said since when each was not there; nor of a copy, since when its original was so.
      const unseen = [winner, loser].some(
        id =>
          world.serviceOf(id).isBlurred(world.origins.get(id) ?? '') ||
          world.serviceOf(id).copyOf.has(world.origins.get(id) ?? '') ||
          said(world.standing(id)?.item) !== said(world.mirrors.get(id)?.item),
      )
      if (at(winner) < at(loser) && !unseen) world.lost.push(`the older ${o.field} won`)
    }
    const asked = (g: World['given'][number]): boolean =>
      g.tie === d.tie?.id && g.field === o.field && sameValue(g.now[o.side], o.value)
    if (o.because === 'answered' && !world.given.some(asked))
      world.lost.push(`nobody answered for ${o.field}`)
  }
  for (const w of d.writes)
    for (const { field } of w.op === 'patch' && w.release === null ? w.fields : [])
      // What followed from a deletion is put back, whichever way the field goes.
      if (
        d.tie?.released === null &&
        d.reason !== 'resumed' &&
        !mayWrite(rule, w.side, field as Field) &&
        !world.given.some(g => g.tie === d.tie?.id && g.field === field)
      )
        world.lost.push(`${field} was written against its way`)
}

/** Which side a field may be written on, by the rule's own words; it may say that what is done is cut short. */
const mayWrite = ({ settings }: Rule, side: Side, field: Field): boolean =>
  ['both', side === 'b' ? 'a-to-b' : 'b-to-a'].includes(settings.fields[field]) ||
  (field === 'time' && side === 'b' && settings.completed === 'end')
