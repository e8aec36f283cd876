import { useQuery } from '@pinia/colada'
import { computed } from 'vue'
import { answer, api } from '../../api/client.ts'

const load = () => answer(() => api.connections.$get())
export type Connection = Awaited<ReturnType<typeof load>>['connections'][number]
export type Collection = Connection['collections'][number]

export function useConnections() {
  const query = useQuery({ key: ['connections'], query: load })
  return {
    connections: computed(() => query.data.value?.connections ?? []),
    now: computed(() => query.data.value?.now ?? Date.now()),
    loaded: computed(() => query.data.value !== undefined),
    trouble: computed(() => query.error.value?.message ?? null),
  }
}

/** Told roughly, because it is read at a glance. */
export function agoWords(at: number | null, now: number): string {
  if (at === null) return 'never'
  const seconds = Math.max(0, Math.round((now - at) / 1000))
  if (seconds < 60) return seconds < 10 ? 'just now' : `${seconds} s ago`
  const minutes = Math.round(seconds / 60)
  if (minutes < 60) return `${minutes} min ago`
  const hours = Math.round(minutes / 60)
  return hours < 48 ? `${hours} h ago` : `${Math.round(hours / 24)} days ago`
}

export const STATE_WORDS: Record<Connection['state'], string> = {
  ok: 'In step',
  slowed: 'Slowed by the service',
  failing: 'Not reachable',
  'signed-out': 'Signed out',
}
