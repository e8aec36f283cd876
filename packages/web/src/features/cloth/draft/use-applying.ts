import type { PieceOf } from '@loom/core/planning'
import { dayAt, dayWords } from '@loom/core/view'
import { computed, ref, watch } from 'vue'
import type { Scene } from '../data/use-scene.ts'
import { applyPieces } from './apply-draft.ts'
import type { DraftState } from './use-draft.ts'
import type { Drafting } from './use-drafting.ts'

const ALL = 'all'

/** What of a draft is applied: all of it, that of one day, or some pieces. */
export function useApplying(scene: Scene, draft: DraftState, drafting: Drafting) {
  const told = computed(() => draft.told.value)
  const pieces = computed(() => told.value?.pieces ?? [])
  const dayOf = (p: PieceOf): string => dayAt(p.fromMs, scene.zone.value)
  const which = ref(ALL)
  const choices = computed(() => {
    // What is planned anew may go from one day to another: that is done as a whole.
    if (draft.planned.value.length > 0) return [{ value: ALL, label: 'all of it' }]
    const nameOf = (day: string): string => (day === drafting.today.value ? 'today' : dayWords(day))
    const count = (day: string): number => pieces.value.filter(p => dayOf(p) === day).length
    return [
      { value: ALL, label: `all ${pieces.value.length}` },
      ...[...new Set(pieces.value.map(dayOf))].map(day => ({
        value: day,
        label: `only ${nameOf(day)} (${count(day)})`,
      })),
    ]
  })
  watch(choices, all => {
    if (!all.some(c => c.value === which.value)) which.value = ALL
  })
  const applying = ref(false)
  async function apply(some: readonly PieceOf[]): Promise<void> {
    const d = scene.data.value
    const now = told.value
    if (!d || !now || some.length === 0) return
    applying.value = true
    try {
      const done = await applyPieces(some, now, {
        now: scene.now.value,
        zone: scene.zone.value,
        defaultMinutes: d.defaultMinutes,
        itemOf: drafting.itemOf,
        titleOf: drafting.titleOf,
        nameOf: scene.nameOf,
        planned: draft.planned.value,
        isBreak: id => drafting.planning.value.regulars.some(r => r.id === id && r.isBreak),
      })
      draft.applied(done)
      if (pieces.value.length === 0 && now.notPlaced.length === 0) draft.close()
      else await drafting.refetch()
    } finally {
      applying.value = false
    }
  }
  const applyChosen = (): void =>
    void apply(pieces.value.filter(p => which.value === ALL || dayOf(p) === which.value))
  return { ALL, which, choices, applying, apply, applyChosen }
}
