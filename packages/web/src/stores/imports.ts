import { defineStore } from 'pinia'
import { reactive } from 'vue'
import { type Connection, importOf } from './connections.ts'
import { say } from './messages.ts'

/** First imports as they come and end, so that one of a few seconds is seen, too, wherever one has gone meanwhile. */

export interface Ended {
  items: number
  /** ms since it was first seen to come, or was asked for. */
  took: number
}

export const useImports = defineStore('imports', () => {
  const begun = new Map<string, number>()
  /** By connection, for as long as the page is open. */
  const ended = reactive(new Map<string, Ended>())

  /** A connection was just made: its import may be over before it is looked at. */
  const expect = (connectionId: string): void => void begun.set(connectionId, Date.now())

  function look(connections: readonly Connection[]): void {
    for (const c of connections) {
      // What is kept here was never anywhere else.
      if (c.kind === 'own') continue
      const since = begun.get(c.id)
      if (importOf(c)) {
        if (since === undefined) begun.set(c.id, Date.now())
        ended.delete(c.id)
      } else if (since !== undefined && c.state === 'ok') {
        begun.delete(c.id)
        const items = c.collections.reduce((n, k) => n + (k.takesPart ? k.importDone : 0), 0)
        ended.set(c.id, { items, took: Date.now() - since })
        say({ text: `${c.name}: all is in, ${items} ${items === 1 ? 'item' : 'items'}.` })
      }
    }
  }
  return { ended, expect, look }
})
