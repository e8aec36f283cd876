import type { Event, ItemPatch, Task } from '../../items/items.ts'
import type { OwnLayer } from '../../items/own-layer.ts'
import type { ClothItem, ItemSource } from '../cloth-item.ts'
import type { Edit } from './edit.ts'

/** What an edit comes to: which item it is written to, what we keep ourselves, and what takes it back. */

export interface Subject {
  item: ClothItem
  task: ItemSource<Task> | null
  event: ItemSource<Event> | null
}

export type EditPlan =
  | {
      ok: true
      /** One write to the service that owns what is edited, or none when only our own layer changes. */
      write: { mirrorId: string; patch: ItemPatch } | null
      /** Our own layer: what its service cannot hold. */
      own: { mirrorId: string; layer: Partial<OwnLayer> } | null
      /** The item that is to be deleted at its service. */
      remove: string | null
      /** Left out of the person's own plan, or in it again. */
      leftOut: boolean | null
      /** Null where it cannot be taken back. */
      inverse: Edit | null
    }
  | { ok: false; reason: string }

export const refuse = (reason: string): EditPlan => ({ ok: false, reason })
export const does = (inverse: Edit | null, rest: Partial<Extract<EditPlan, { ok: true }>>): EditPlan => ({
  ok: true,
  write: null,
  own: null,
  remove: null,
  leftOut: null,
  inverse,
  ...rest,
})

type Of<K extends Edit['do']> = Extract<Edit, { do: K }>

/** What each edit is written as, upon everything that is known of the item. */
export type Deciders = { [K in Edit['do']]: (subject: Subject, edit: Of<K>) => EditPlan }

export interface EditViewer {
  zone: string
  /** Minutes that a task without an estimate counts for. */
  defaultMinutes: number
  /** Epoch ms. */
  now: number
}

/**
 * Predicts how an item reads after an edit, from what a page knows. A property test compares this with what is
 * written.
 */
export type Shows = { [K in Edit['do']]: (item: ClothItem, edit: Of<K>, viewer: EditViewer) => ClothItem }

export const CANNOT_MOVE = 'It cannot be moved.'
export const READ_ONLY = 'Read-only: edit it in its service.'
