import { appliedAs, type DraftPiece, type Told } from '@loom/core/planning'
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
}

const MOST_NAMED = 3

/** Makes these pieces real, and says what came of it, with one way back. Returns those that are there now. */
export async function applyPieces(
  pieces: readonly DraftPiece[],
  told: Told,
  terms: Terms,
): Promise<DraftPiece[]> {
  const asGiven = pieces.map(piece => {
    const span = { fromMs: piece.fromMs, toMs: piece.toMs, pinned: piece.isPinned }
    if (piece.regular !== null) return { what: 'regular' as const, title: terms.titleOf(piece.id), ...span }
    const item = terms.itemOf(piece.id)
    const isPart = told.notPlaced.some(n => n.id === piece.id)
    const all = told.pieces.filter(p => p.id === piece.id)
    const what = item && !isPart ? appliedAs(item, all, terms) : ('block' as const)
    return { what, task: piece.id, ...span }
  })
  try {
    const { pieces: answers } = await whenReached(() =>
      answer(() => api.planning.apply.$post({ json: { pieces: asGiven } })),
    )
    const done = pieces.filter((_, n) => answers[n]?.ok)
    const made = answers.flatMap(a => (a.ok && a.back && 'intent' in a.back ? [a.back.intent] : []))
    const edits = answers.flatMap(a => (a.ok && a.back && 'key' in a.back ? [a.back] : []))
    const refused = answers.flatMap((a, n) =>
      a.ok || !pieces[n] ? [] : [`${terms.titleOf(pieces[n].id)}: ${a.reason}`],
    )
    const more = refused.length - MOST_NAMED
    const words = [
      ...refused.slice(0, MOST_NAMED),
      ...(more > 0 ? [`And ${more} more were not kept.`] : []),
    ].join(' ')
    const title = done.length === 1 && done[0] ? terms.titleOf(done[0].id) : 'The draft'
    if (done.length > 0) {
      const text = `${done.length === 1 ? `${title}: applied.` : `Draft applied: ${done.length} pieces have their time.`}`
      const step = { title, made, edits }
      say({ text, undo: () => void takeBackDraft(step), back: { do: 'draft', ...step } })
    }
    if (refused.length > 0) say({ text: `Not applied: ${words}`, tone: 'wrong' })
    return done
  } catch (error) {
    if (!(error instanceof Refused)) throw error
    say({ text: `Not applied. ${error.message}`, tone: 'wrong' })
    return []
  }
}
