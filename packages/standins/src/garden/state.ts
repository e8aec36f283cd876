import { createHash } from 'node:crypto'
import { Store } from '../store.ts'
import type { Size } from '../weeks.ts'
import { gardenSeed } from './seed.ts'

/** What Garden Calendars holds. Objects are kept as bytes (base64), as they were given. */
export interface CalendarObject {
  etag: string
  data: string
}

export interface Calendar {
  user: string
  slug: string
  name: string
  colour: string
  readOnly: boolean
  /** Holds tasks (VTODO) too. */
  tasks?: boolean
  /** Holds nothing but tasks. */
  itemKind?: 'tasks'
  /** Comes from another user, in a home set of its own. */
  shared?: boolean
  objects: Record<string, CalendarObject>
  /** Every change, for sync-collection (RFC 6578). */
  log: { seq: number; name: string }[]
}

export interface GardenState {
  users: Record<string, { password: string; name: string }>
  calendars: Calendar[]
  seq: number
}

export class Garden {
  readonly store: Store<GardenState>

  constructor(file: string, size: Size = 'small') {
    this.store = new Store(file, () => {
      const state: GardenState = { users: {}, calendars: [], seq: 0 }
      gardenSeed(state, size, (cal, name, text) => this.writeInto(state, cal, name, Buffer.from(text)))
      return state
    })
  }

  calendar(user: string, slug: string): Calendar | undefined {
    return this.store.value.calendars.find(c => c.user === user && c.slug === slug)
  }

  write(calendar: Calendar, name: string, bytes: Buffer): CalendarObject {
    const object = this.writeInto(this.store.value, calendar, name, bytes)
    this.store.save()
    return object
  }

  private writeInto(state: GardenState, calendar: Calendar, name: string, bytes: Buffer): CalendarObject {
    state.seq++
    const digest = createHash('sha256').update(bytes).digest('hex').slice(0, 16)
    const object = { etag: `"${state.seq}-${digest}"`, data: bytes.toString('base64') }
    calendar.objects[name] = object
    calendar.log.push({ seq: state.seq, name })
    return object
  }

  remove(calendar: Calendar, name: string): void {
    const state = this.store.value
    state.seq++
    delete calendar.objects[name]
    calendar.log.push({ seq: state.seq, name })
    this.store.save()
  }
}

export const textOf = (object: CalendarObject): string => Buffer.from(object.data, 'base64').toString('utf8')

/** Just enough of RFC 5545 to answer a query: the first VEVENT's property, unfolded. */
export function property(text: string, name: string): { params: string; value: string } | null {
  const unfolded = text.replace(/\r?\n[ \t]/g, '')
  const body = /BEGIN:VEVENT([\s\S]*?)END:VEVENT/i.exec(unfolded)?.[1] ?? unfolded
  const m = new RegExp(`^${name}((?:;[^:\\r\\n]*)?):([^\\r\\n]*)`, 'im').exec(body)
  return m ? { params: m[1] ?? '', value: m[2] ?? '' } : null
}
