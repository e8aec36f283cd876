import { useLiveState } from '../../../stores/live-state.ts'
import { minuteWords } from '../../../ui/telling.ts'

/** Drawing a span on free space of a row, with a mouse or a pen. */

/** Minutes; with Alt the finer one. */
export const SNAP = 15
export const FINE_SNAP = 5

/** A span drawn on free space. */
export interface Drawn {
  date: string
  row: string
  from: number
  to: number
  box: DOMRect
}

interface Options {
  minuteAt: (track: Element, x: number, snap: number) => number
  axis: () => { from: number; to: number }
  draw: (drawn: Drawn) => void
}

/** Returns what ends it. */
export function attachDrawing(root: HTMLElement, { minuteAt, axis, draw }: Options): () => void {
  const live = useLiveState()
  const onDown = (event: PointerEvent): void => {
    const track = (event.target as HTMLElement).closest<HTMLElement>('[data-drop="hour"]')
    if (!track || event.button !== 0 || event.pointerType === 'touch') return
    if ((event.target as HTMLElement).closest('[data-key]')) return
    const { date = '', row = '' } = track.dataset
    const first = minuteAt(track, event.clientX, SNAP)
    const mark = document.createElement('div')
    mark.className = 'marked-out'
    const drawTo = (at: number): { from: number; to: number } => {
      const [from, to] = at < first ? [at, first] : [first, at]
      const { from: axisFrom, to: axisTo } = axis()
      mark.style.left = `${(100 * (from - axisFrom)) / (axisTo - axisFrom)}%`
      mark.style.width = `${(100 * (to - from)) / (axisTo - axisFrom)}%`
      mark.textContent = to > from ? `${minuteWords(from)}–${minuteWords(to)}` : ''
      return { from, to }
    }
    let span = { from: first, to: first }
    const onMove = (e: PointerEvent): void => {
      if (!mark.isConnected && Math.abs(e.clientX - event.clientX) < 6) return
      if (!mark.isConnected) track.append(mark)
      live.holding = true
      span = drawTo(minuteAt(track, e.clientX, e.altKey ? FINE_SNAP : SNAP))
    }
    const stop = (): void => {
      window.removeEventListener('pointermove', onMove)
      window.removeEventListener('pointerup', onUp)
      window.removeEventListener('keydown', onEscape)
      live.holding = false
    }
    const onUp = (): void => {
      stop()
      const box = mark.getBoundingClientRect()
      const drawn = mark.isConnected && span.to > span.from
      mark.remove()
      if (drawn) draw({ date, row, ...span, box })
    }
    const onEscape = (e: KeyboardEvent): void => {
      if (e.key !== 'Escape') return
      stop()
      mark.remove()
    }
    window.addEventListener('pointermove', onMove)
    window.addEventListener('pointerup', onUp)
    window.addEventListener('keydown', onEscape)
  }
  root.addEventListener('pointerdown', onDown)
  return () => root.removeEventListener('pointerdown', onDown)
}
