import { changedIn, plainView, type ViewBody, viewOf } from '@loom/core/view'
import { useQuery, useQueryCache } from '@pinia/colada'
import type { InferRequestType } from 'hono/client'
import { computed, type ComputedRef, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { answer, api } from '../../../api/client.ts'
import { say } from '../../../stores/messages.ts'
import { useMine } from '../../../stores/mine.ts'

/**
 * The current view: a saved one, or none, with the changes made here. Changes last over reloads until they are
 * saved or dropped; saving is offered, never forced.
 */

const loadViews = () => answer(() => api.views.$get())
export type SavedView = Awaited<ReturnType<typeof loadViews>>['views'][number]

type Given = InferRequestType<typeof api.views.$post>['json']
export type NamedView = Pick<Given, 'name' | 'icon' | 'grants'>

const keptUnder = (id: string | null): string => `loom-view ${id ?? 'plain'}`

function kept(id: string | null): ViewBody | null {
  const text = localStorage.getItem(keptUnder(id))
  if (!text) return null
  try {
    return viewOf(JSON.parse(text))
  } catch {
    // Somebody else's text under our name: as good as none.
    return null
  }
}

/** Whom it is for, as the server takes it. */
export const grantsOf = ({ grants }: SavedView): NonNullable<NamedView['grants']> =>
  (grants ?? []).flatMap(({ to, level, opens }) =>
    (level === 'everything' || level === 'change') && opens !== 'nothing' && opens !== 'change'
      ? [{ to, level, opens }]
      : [],
  )

export interface View {
  body: ComputedRef<ViewBody>
  saved: ComputedRef<SavedView | null>
  views: ComputedRef<SavedView[]>
  changed: ComputedRef<(keyof ViewBody)[]>
  set: (patch: Partial<ViewBody>) => void
  drop: () => void
  choose: (id: string | null) => void
  save: () => Promise<void>
  saveAs: (given: NamedView) => Promise<void>
  /** Names it otherwise, or says whom it is for. */
  rename: (view: SavedView, given: NamedView) => Promise<void>
  remove: (view: SavedView) => Promise<void>
}

/** If the screen is too narrow for the hours of a week, the list is shown first. */
export const NARROW = '(max-width: 600px)'

export function useView(): View {
  const plain: ViewBody = window.matchMedia(NARROW).matches ? { ...plainView, span: 'list' } : plainView
  const route = useRoute()
  const router = useRouter()
  const cache = useQueryCache()
  const mine = useMine()
  const query = useQuery({ key: ['views'], query: loadViews })
  void query.refresh()
  const views = computed(() => query.data.value?.views ?? [])
  const asked = computed(() => {
    const { view } = route.query
    if (typeof view === 'string') return view === 'none' ? null : view
    return mine.settings.value.view
  })
  const saved = computed(() => views.value.find(v => v.id === asked.value) ?? null)
  const id = computed(() => saved.value?.id ?? null)
  const base = computed(() => saved.value?.body ?? plain)
  const draft = ref<ViewBody | null>(kept(id.value))
  watch(id, next => (draft.value = kept(next)))
  const body = computed(() => draft.value ?? base.value)

  function keep(next: ViewBody | null): void {
    draft.value = next
    if (next) localStorage.setItem(keptUnder(id.value), JSON.stringify(next))
    else localStorage.removeItem(keptUnder(id.value))
  }
  function set(patch: Partial<ViewBody>): void {
    const next = { ...body.value, ...patch }
    keep(changedIn(base.value, next).length === 0 ? null : next)
  }
  function choose(next: string | null): void {
    const { view: _, ...rest } = route.query
    void router.replace({ query: { ...rest, view: next ?? 'none' } })
  }
  async function save(): Promise<void> {
    const view = saved.value
    if (!view || !draft.value) return
    const { name, icon, version } = view
    const json = { name, icon, version, body: draft.value }
    await answer(() => api.views[':id'].$put({ param: { id: view.id }, json }))
    await cache.invalidateQueries({ key: ['views'] })
    keep(null)
    say({ text: `${name}: saved.` })
  }
  async function saveAs(given: NamedView): Promise<void> {
    const { id: made } = await answer(() => api.views.$post({ json: { ...given, body: body.value } }))
    await cache.invalidateQueries({ key: ['views'] })
    keep(null)
    choose(made)
    say({ text: `${given.name}: saved.` })
  }
  async function rename({ id: known, body: as, version }: SavedView, given: NamedView): Promise<void> {
    await answer(() => api.views[':id'].$put({ param: { id: known }, json: { ...given, body: as, version } }))
    await cache.invalidateQueries({ key: ['views'] })
    say({ text: `${given.name}: saved.` })
  }
  async function remove(view: SavedView): Promise<void> {
    await answer(() => api.views[':id'].$delete({ param: { id: view.id } }))
    localStorage.removeItem(keptUnder(view.id))
    if (view.id === id.value) choose(null)
    await cache.invalidateQueries({ key: ['views'] })
    const { name, icon, body: was } = view
    const grants = grantsOf(view)
    say({
      text: `${name}: removed.`,
      undo: () =>
        void answer(() => api.views.$post({ json: { name, icon, grants, body: was } })).then(() =>
          cache.invalidateQueries({ key: ['views'] }),
        ),
    })
  }

  return {
    body,
    saved,
    views,
    changed: computed(() => changedIn(base.value, body.value)),
    set,
    drop: () => keep(null),
    choose,
    save,
    saveAs,
    rename,
    remove,
  }
}
