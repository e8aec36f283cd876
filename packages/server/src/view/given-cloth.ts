import type { ClothItem, Viewer } from '@loom/core'
import type { Sight } from '../access/sight.ts'
import { busyOf, type Days, type Drawn, drawnFor, makingOf, type Reading } from './cloth.ts'
import { Versions } from './versions.ts'

/**
 * What those were given who see some days in one way. From one reading to the next only what hangs together with a
 * change is drawn and written again, and only for those who see it otherwise by that.
 */
export class GivenCloth {
  readonly versions = new Versions()
  /** The reading that they were given last. */
  private reading = 0
  private parts = new Map<string, Drawn>()
  /** Keys of what is being made, and of taken time. */
  private making: string[] = []
  private busy: string[] = []

  /**
   * @param lineOf an item as it is sent
   * @param zoneOf of a person, for their whole days
   */
  follow(
    reading: Reading,
    sight: Sight,
    span: Pick<Days, 'from' | 'days'>,
    viewer: Viewer,
    { lineOf, zoneOf }: { lineOf: (item: ClothItem) => string; zoneOf: (person: string | null) => string },
  ): void {
    const from = reading.steps.findIndex(s => s.after === this.reading)
    const isNext = from >= 0
    const before = this.parts
    const changed = isNext
      ? new Set(reading.steps.slice(from).flatMap(s => [...s.changed]))
      : reading.components.keys()
    if (!isNext) this.parts = new Map()
    const lines: (readonly [string, string])[] = []
    const gone: string[] = []
    let minds = !isNext
    for (const key of changed) {
      const component = reading.components.get(key)
      const now = component && drawnFor(component, sight, viewer)
      const was = before.get(key)
      if (now) this.parts.set(key, now)
      else this.parts.delete(key)
      if (isNext && now === was) continue
      for (const item of now?.items ?? []) lines.push([item.key, lineOf(item)])
      if (!isNext) continue
      for (const item of was?.items ?? []) gone.push(item.key)
      minds ||= (now?.taken.length ?? 0) > 0 || (was?.taken.length ?? 0) > 0
    }
    const making = makingOf(reading, sight, viewer)
    // Most changes leave the taken time of everybody as it is.
    const busy = minds ? busyOf(this.parts.values(), span, viewer, zoneOf) : null
    for (const item of [...making, ...(busy ?? [])]) lines.push([item.key, lineOf(item)])
    if (isNext) this.versions.change(lines, [...gone, ...this.making, ...(busy ? this.busy : [])])
    else this.versions.put(lines)
    this.making = making.map(item => item.key)
    if (busy) this.busy = busy.map(item => item.key)
    this.reading = reading.id
  }
}
