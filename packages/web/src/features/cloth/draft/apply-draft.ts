import { appliedAs, changesOf, type PieceOf, type Planned, type TeamTold } from '@loom/core/planning'
import type { ClothItem } from '@loom/core/view'
import { answer, api, Refused } from '../../../api/client.ts'
import { say } from '../../../stores/messages.ts'
import { takeBackDraft } from '../../../stores/take-back.ts'
import { whenReached } from '../../../stores/unsent.ts'

interface Terms {
  now: number
  zone: string
  defaultMinutes: number
  itemOf: (id: string) => ClothItem | undefined
  titleOf: (id: string) => string
  /** Of a person. */
  nameOf: (id: string) => string
  /** What is planned already and may be moved. */
  planned: readonly Planned[]
  /** Of a regular, by its id. */
  isBreak: (regular: string) => boolean
}

const MOST_NAMED = 3

type Given = Parameters<typeof api.planning.apply.$post>[0]['json']['pieces'][number]
interface Step {
  /** Of the task or the regular. */
  id: string
  given: Given
  /** What of the draft becomes real by it. */
  piece: PieceOf | null
}

/** What applying these pieces comes to: of what is planned already, only what changes. */
function stepsOf(
  pieces: readonly PieceOf[],
  told: TeamTold,
  terms: Terms,
): { all: Step[]; kept: ReadonlySet<PieceOf> } {
  const all: Step[] = []
  const kept = new Set<PieceOf>()
  const anew = new Map<string, PieceOf[]>()
  // With all of it, what has lost its place as well.
  if (pieces.length === told.pieces.length) for (const p of terms.planned) anew.set(p.task, [])
  for (const piece of pieces) {
    const { id, regular, fromMs, toMs } = piece
    const span = { fromMs, toMs, pinned: piece.isPinned }
    if (regular !== null)
      all.push({
        id,
        given: { what: 'regular', title: terms.titleOf(id), isBreak: terms.isBreak(regular), ...span },
        piece,
      })
    else if (piece.givesWay) {
      const plan = terms.itemOf(id)?.kind === 'task' || terms.itemOf(id)?.kind === 'tied'
      // Its place was sought for it: nothing else is to stand there.
      all.push({ id, given: { what: 'move', key: id, plan, ...span, pinned: false }, piece })
    } else if (terms.planned.some(p => p.task === id)) anew.set(id, [...(anew.get(id) ?? []), piece])
    else {
      const item = terms.itemOf(id)
      const isPart = told.notPlaced.some(n => n.id === id)
      const whole = told.pieces.filter(p => p.id === id)
      const what = item && !isPart ? appliedAs(item, whole, terms) : 'block'
      all.push({ id, given: { what, task: id, person: piece.person, ...span }, piece })
    }
  }
  for (const [id, drafted] of anew)
    for (const change of changesOf(
      drafted,
      terms.planned.filter(p => p.task === id),
    )) {
      const at = change.do === 'remove' ? change.planned : change
      const piece = drafted.find(d => d.fromMs === at.fromMs && d.toMs === at.toMs) ?? null
      const span = { fromMs: at.fromMs, toMs: at.toMs, pinned: piece?.isPinned ?? false }
      if (change.do === 'keep') {
        if (piece) kept.add(piece)
      } else if (change.do === 'add')
        all.push({ id, given: { what: 'block', task: id, person: null, ...span }, piece })
      else {
        const { key, kind } = change.planned
        const given = { what: change.do, key, plan: kind === 'plan', ...span }
        all.push({ id, given, piece: change.do === 'remove' ? null : piece })
      }
    }
  return { all, kept }
}

const writtenWords = (pieces: number): string =>
  `Draft applied: ${pieces === 1 ? 'one piece has its' : `${pieces} pieces have their`} time.`
const askedWords = (people: readonly string[], pieces: number): string =>
  `Asked ${people.join(', ')} for ${pieces === 1 ? 'one piece' : `${pieces} pieces`}: what is theirs alone, they decide.`

/** Makes these pieces real, and says what came of it, with one way back. Returns those that are there now. */
export async function applyPieces(
  pieces: readonly PieceOf[],
  told: TeamTold,
  terms: Terms,
): Promise<PieceOf[]> {
  const steps = stepsOf(pieces, told, terms)
  const stays = pieces.filter(p => steps.kept.has(p))
  if (steps.all.length === 0) {
    if (stays.length > 0) say({ text: 'Nothing changes: all of it stands there already.' })
    return stays
  }
  try {
    const { pieces: answers } = await whenReached(() =>
      answer(() => api.planning.apply.$post({ json: { pieces: steps.all.map(s => s.given) } })),
    )
    const done = steps.all.filter((_, n) => answers[n]?.ok)
    const made = answers.flatMap(a => (a.ok && a.back && 'intent' in a.back ? [a.back.intent] : []))
    const edits = answers.flatMap(a => (a.ok && a.back && 'key' in a.back ? [a.back] : []))
    const requests = answers.map(a => (a.ok && a.back && 'request' in a.back ? a.back.request : null))
    const asked = [...new Set(requests.filter(id => id !== null))]
    const isAsked = (s: Step): boolean => requests[steps.all.indexOf(s)] !== null
    const refused = answers.flatMap((a, n) =>
      a.ok || !steps.all[n] ? [] : [`${terms.titleOf(steps.all[n].id)}: ${a.reason}`],
    )
    const more = refused.length - MOST_NAMED
    const words = [
      ...refused.slice(0, MOST_NAMED),
      ...(more > 0 ? [`And ${more} more were not kept.`] : []),
    ].join(' ')
    const title = done.length === 1 && done[0] ? terms.titleOf(done[0].id) : 'The draft'
    if (done.length > 0) {
      const written = done.filter(s => !isAsked(s)).length
      const people = [
        ...new Set(done.flatMap(s => (isAsked(s) && s.piece ? [terms.nameOf(s.piece.person)] : []))),
      ]
      const text = [
        written === 0
          ? ''
          : written === 1 && done.length === 1
            ? `${title}: applied.`
            : writtenWords(written),
        asked.length === 0 ? '' : askedWords(people, done.length - written),
      ]
        .filter(Boolean)
        .join(' ')
      const step = { title, made, edits, asked }
      say({ text, undo: () => void takeBackDraft(step), back: { do: 'draft', ...step } })
    }
    if (refused.length > 0) say({ text: `Not applied: ${words}`, tone: 'wrong' })
    return [...stays, ...done.flatMap(s => (s.piece ? [s.piece] : []))]
  } catch (error) {
    if (!(error instanceof Refused)) throw error
    say({ text: `Not applied. ${error.message}`, tone: 'wrong' })
    return []
  }
}
