import { useQuery } from '@pinia/colada'
import { computed, onBeforeUnmount, ref } from 'vue'
import { answer, api } from '../api/client.ts'

const load = () => answer(() => api.connections.$get())
export type Connection = Awaited<ReturnType<typeof load>>['connections'][number]
export type Collection = Connection['collections'][number]

export function useConnections() {
  const query = useQuery({ key: ['connections'], query: load })
  return {
    connections: computed(() => query.data.value?.connections ?? []),
    now: computed(() => query.data.value?.now ?? Date.now()),
    halted: computed(() => query.data.value?.halted ?? null),
    loaded: computed(() => query.data.value !== undefined),
    trouble: computed(() => query.error.value?.message ?? null),
    refresh: () => query.refetch(),
  }
}

/** The server's clock, told anew every second. */
export function useTicking(serverNow: () => number) {
  const ahead = computed(() => serverNow() - Date.now())
  const local = ref(Date.now())
  const timer = window.setInterval(() => (local.value = Date.now()), 1000)
  onBeforeUnmount(() => clearInterval(timer))
  return computed(() => local.value + ahead.value)
}

/** Told roughly, because it is read at a glance. */
export function agoWords(at: number | null, now: number): string {
  if (at === null) return 'never'
  const seconds = Math.max(0, Math.round((now - at) / 1000))
  if (seconds < 60) return seconds < 5 ? 'just now' : `${seconds} s ago`
  const minutes = Math.round(seconds / 60)
  if (minutes < 60) return `${minutes} min ago`
  const hours = Math.round(minutes / 60)
  return hours < 48 ? `${hours} h ago` : `${Math.round(hours / 24)} days ago`
}

const inWords = (at: number, now: number): string => {
  const seconds = Math.max(0, Math.round((at - now) / 1000))
  if (seconds < 1) return 'now'
  // A number and its unit stay on one line.
  return seconds < 90 ? `in ${seconds}\u00a0s` : `in ${Math.round(seconds / 60)}\u00a0min`
}

export interface Health {
  tone: 'well' | 'busy' | 'wrong' | 'resting'
  words: string
  detail: string
  /** What one can do about it. */
  advice: string
}

/** How far a first import has come; null when everything that takes part was read once. */
export function importOf(c: Connection): { done: number; total: number | null } | null {
  const reading = c.collections.filter(k => k.takesPart && k.syncedAt === null)
  if (reading.length === 0) return null
  const totals = reading.map(k => k.importTotal)
  return {
    done: reading.reduce((n, k) => n + k.importDone, 0),
    total: totals.includes(null) ? null : totals.reduce<number>((n, t) => n + (t ?? 0), 0),
  }
}

/** One line that tells the truth about a connection. */
export function healthOf(c: Connection, now: number): Health {
  const since = c.failingSince === null ? '' : `Since ${agoWords(c.failingSince, now)}. `
  const next = c.nextTryAt === null ? '' : `Next try ${inWords(c.nextTryAt, now)}.`
  if (c.paused)
    return {
      tone: 'resting',
      words: 'Paused',
      detail: 'Nothing is read or written until it goes on.',
      advice: '',
    }
  if (c.state === 'signed-out')
    return {
      tone: 'wrong',
      words: 'Signed out',
      detail: `${c.trouble ?? ''} ${since}`.trim(),
      advice: 'Sign in again; nothing is lost, and what waits is sent then.',
    }
  if (c.state === 'slowed')
    return {
      tone: 'busy',
      words: 'Slowed by the service',
      detail: `${c.trouble ?? ''} ${next}`.trim(),
      advice: 'Nothing to do: it goes on by itself.',
    }
  if (c.state === 'failing')
    return {
      tone: 'wrong',
      words: 'Failing',
      detail: `${c.trouble ?? ''} ${since}${next}`.trim(),
      advice: 'What is changed meanwhile waits here. If it lasts, see whether the service is up.',
    }
  const coming = importOf(c)
  if (coming)
    return {
      tone: 'busy',
      words:
        coming.total === null
          ? `Catching up, ${coming.done} so far`
          : `Catching up, ${coming.done} of ${coming.total}`,
      detail: 'What is in can be used already.',
      advice: '',
    }
  const frozen = c.collections.find(k => k.takesPart && k.trouble)
  if (frozen)
    return { tone: 'wrong', words: `${frozen.name} waits`, detail: frozen.trouble ?? '', advice: '' }
  return { tone: 'well', words: 'In step', detail: agoWords(c.lastOkAt, now), advice: '' }
}
