import { computed } from 'vue'
import { useRoute, useRouter } from 'vue-router'

/** The journal's filter. It is in the address, so that it can be linked to and gone back to. */
export const KEYS = ['words', 'rule', 'who', 'service', 'field', 'outcome', 'item'] as const
export type Key = (typeof KEYS)[number]
export type Outcome = 'done' | 'refused' | 'overridden'
export type Wanted = Partial<Record<Exclude<Key, 'outcome'>, string>> & { outcome?: Outcome }

export function useWanted() {
  const route = useRoute()
  const router = useRouter()
  const wanted = computed((): Wanted =>
    Object.fromEntries(
      KEYS.flatMap(key => {
        const value = route.query[key]
        return typeof value === 'string' && value ? [[key, value]] : []
      }),
    ),
  )
  const set = (key: Key, value: string | null): void => {
    const rest = Object.fromEntries(Object.entries(wanted.value).filter(([k]) => k !== key))
    void router.replace({ query: value ? { ...rest, [key]: value } : rest })
  }
  return {
    wanted,
    isAll: computed(() => Object.keys(wanted.value).length === 0),
    set,
    all: () => void router.replace({ query: {} }),
  }
}
