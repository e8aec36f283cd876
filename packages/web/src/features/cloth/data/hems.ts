import { covered, type HourRow, isWork, wallMinutes, type WorkingHours } from '@loom/core/view'
import { spansOf, type WorkWindow } from '@loom/core/windows'

/** A work window in a row: where it lies, and how much of what there is of it is taken by work. */
export interface Hem {
  id: string
  name: string
  /** Minutes of the row's day. */
  from: number
  to: number
  taken: number
  /** Less what events take of it. */
  there: number
}

const DAY = 1440

export function hemsOf(
  row: Pick<HourRow, 'date' | 'blocks' | 'counts'>,
  windows: readonly (WorkWindow & { name: string })[],
  hours: WorkingHours,
  zone: string,
): Hem[] {
  const busy = row.blocks.filter(b => b.item.busy && !b.item.leftOut && row.counts(b.item))
  return windows.flatMap(window =>
    spansOf(window, [row.date], hours).flatMap(span => {
      const from = Math.max(0, wallMinutes(span.fromMs, row.date, zone))
      const to = Math.min(DAY, wallMinutes(span.toMs, row.date, zone))
      if (to <= from) return []
      const within = busy.flatMap(b => {
        const part = { from: Math.max(from, b.from), to: Math.min(to, b.to), work: isWork(b.item) }
        return part.to > part.from ? [part] : []
      })
      const events = covered(within.filter(p => !p.work))
      return [
        {
          id: window.id,
          name: window.name,
          from,
          to,
          taken: covered(within) - events,
          there: to - from - events,
        },
      ]
    }),
  )
}
