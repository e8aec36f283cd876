import { defaultSettings, fieldsFor, type RuleSettings } from '@loom/core/view'
import { computed, reactive, ref, watch } from 'vue'
import { useConnections } from '../../stores/connections.ts'
import type { RuleView } from './use-rules.ts'

export interface Given {
  name: string
  a: string | undefined
  b: string | undefined
  settings: RuleSettings
}

export const plainCopy = <T>(of: T): T => JSON.parse(JSON.stringify(of)) as T

/** The draft of a rule and its unsaved changes. */
export function useRuleDraft(rule: () => RuleView | undefined) {
  const { connections } = useConnections()
  const given = reactive<Given>({
    name: '',
    a: undefined,
    b: undefined,
    settings: plainCopy(defaultSettings),
  })
  const kept = ref(JSON.stringify(given))
  const dirty = computed(() => JSON.stringify(given) !== kept.value)

  function take(from: Given, isKept: boolean): void {
    Object.assign(given, plainCopy(from))
    if (isKept) kept.value = JSON.stringify(given)
  }
  watch(
    rule,
    r => {
      // Edits in progress are not overwritten by new data.
      if (r && !dirty.value) take({ name: r.name, a: r.a, b: r.b, settings: r.settings }, true)
    },
    { immediate: true },
  )

  const collections = computed(() =>
    connections.value
      .flatMap(c => c.collections.map(k => ({ ...k, service: c.name, connection: c.id })))
      .filter(k => k.takesPart),
  )
  const named = (which: string | undefined) => collections.value.find(k => k.id === which)
  const a = computed(() => named(given.a))
  const b = computed(() => named(given.b))
  const kinds = computed(() => ({ a: a.value?.itemKind ?? 'task', b: b.value?.itemKind ?? 'event' }) as const)
  const fields = computed(() => fieldsFor(kinds.value))
  return {
    given,
    dirty,
    take,
    keep: () => (kept.value = JSON.stringify(given)),
    connections,
    collections,
    a,
    b,
    kinds,
    fields,
  }
}
