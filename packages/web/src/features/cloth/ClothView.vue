<script setup lang="ts">
import { type ClothItem, durationWords, isWay, lengthOf, wayOf, withTravel } from '@loom/core/view'
import { computed, defineAsyncComponent, onBeforeUnmount, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { useMine } from '../../stores/mine.ts'
import { usePlanning } from '../../stores/planning.ts'
import { useOthersWays } from '../../stores/ways.ts'
import { useWaitLines } from '../../stores/waits.ts'
import { provideDraft, useDraft } from './draft/use-draft.ts'
import { useDraftActs } from './draft/use-draft-acts.ts'
import { useOffering } from './offers/use-offering.ts'
import ChosenBar from './shelf/ChosenBar.vue'
import './drag/drag.css'
import ClothDialogs from './ClothDialogs.vue'
import ClothHead from './ClothHead.vue'
import SeesAs from './SeesAs.vue'
import ClothHours from './grid/ClothHours.vue'
import ClothList from './grid/ClothList.vue'
import DyeLegend from './DyeLegend.vue'
import DayCells from './grid/DayCells.vue'
import { useDrag } from './drag/drag.ts'
import { usualKept } from './data/further-time.ts'
import { provideShownFacts } from './data/shown-facts.ts'
import LoadPanel from './grid/LoadPanel.vue'
import NowStrip from './grid/NowStrip.vue'
import TheShelf from './shelf/TheShelf.vue'
import { useKeptFocus } from './data/keep-focus.ts'
import { useActs } from './acts/use-acts.ts'
import { usePresence } from './data/use-presence.ts'
import { useScene } from './data/use-scene.ts'
import { useView } from './data/use-view.ts'
import { useFocus } from '../../stores/focus.ts'
import { useSendRow } from '../chat/use-send-row.ts'
import { usePrepare } from './prepare/use-prepare.ts'
import { fetchHyphens } from '../../ui/hyphens.ts'
import { inOurTheme, partInOurTheme } from '../../ui/in-our-theme.ts'

const SendDays = partInOurTheme(() => import('../chat/SendDays.vue'))
/** Fetched once the Cloth itself is there, and it is quiet: nearly everybody opens an item next. */
const drawer = () => import('./item/ItemDrawer.vue')
const QUIET_MS = 1500
const ItemDrawer = partInOurTheme(drawer)
const DraftPanel = defineAsyncComponent(() => import('./draft/DraftPanel.vue'))
const OfferPanel = partInOurTheme(() => import('./offers/OfferPanel.vue'))
const PreparePanel = defineAsyncComponent(() => import('./prepare/PreparePanel.vue'))
const AwayDrawer = partInOurTheme(() => import('./shelf/AwayDrawer.vue'))

const view = useView()
const mine = useMine()
const draft = useDraft()
provideDraft(draft)
/** The Cloth itself comes first; how somebody plans is asked for once it is there. */
const isThere = ref(false)
const { planning } = usePlanning(() => isThere.value)
const scene = useScene(view, items =>
  othersWays(withTravel(draft.onto(items), planning.value.travel, data.value?.me ?? '')),
)
const othersWays = useOthersWays(
  () => ({ from: scene.dates.value[0] ?? scene.at.value, days: scene.dates.value.length }),
  () => isThere.value,
)
const { cloth, body, data, now, zone } = scene
watch(
  () => data.value !== undefined,
  is => (isThere.value = is),
  { immediate: true },
)
provideShownFacts({
  shows: computed(() => body.value.shows),
  sources: scene.sources,
  nameOf: scene.nameOf,
  dyes: scene.dyes,
  waitsFor: useWaitLines(() => isThere.value).titlesOf,
})
const root = ref<HTMLElement | null>(null)
const acts = useActs({ scene, view, root })
const onDraft = useDraftActs(draft, scene, acts)
const sendRow = useSendRow(
  () => view.body.value.rows,
  () => data.value?.me ?? '',
)
const focus = useFocus()
const offering = useOffering(scene, () => isThere.value)
const prepare = usePrepare(scene, () => data.value !== undefined)
/** While something is drafted the panel makes room, and is there again afterwards. */
const isPreparing = computed(() => prepare.isOpen.value && !draft.isOpen.value && !offering.isOpen.value)
/** One panel at a time: what is asked for last. */
watch(draft.isOpen, is => is && offering.close())
function offer(first: Parameters<typeof offering.open>[0] = null): void {
  acts.closeAsked()
  draft.isOpen.value = false
  offering.open(first)
}
/** People as rows, over the hours of a day. */
function besideOneAnother(date: string): void {
  view.set({ span: 'day', rows: 'people' })
  scene.go(date)
}
const route = useRoute()
const router = useRouter()
watch(
  () => route.query.offer,
  asked => {
    if (asked === undefined) return
    offering.side.value = asked === 'us' ? 'us' : 'guests'
    offer()
    void router.replace({ query: {} })
  },
  { immediate: true },
)
useKeptFocus(root)
usePresence(scene.dates)

/** A failure is reported when the part is opened; words stay whole without the patterns. */
const ahead: [ms: number, fetch: () => Promise<unknown>][] = [
  [300, fetchHyphens],
  [QUIET_MS, inOurTheme(drawer)],
]
let timers: number[] = []
watch(
  () => data.value !== undefined,
  isThere => {
    if (isThere)
      timers = ahead.map(([ms, fetch]) => window.setTimeout(() => void fetch().catch(() => undefined), ms))
  },
  { immediate: true },
)
onBeforeUnmount(() => timers.forEach(t => window.clearTimeout(t)))

const drag = useDrag({
  root,
  itemOf: onDraft.itemOf,
  axis: () => scene.axis.value,
  defaultMinutes: () => data.value?.defaultMinutes ?? 30,
  zone: () => zone.value,
  now: () => now.value,
  freeAround: scene.freeAround,
  kept: () => usualKept(mine.settings.value),
  calendars: acts.calendars,
  drop: onDraft.drop,
  // While times are chosen for guests, what is drawn is one of them.
  draw: drawn => (offering.isOpen.value ? offering.add(drawn) : acts.draw(drawn)),
})
/** What can be done to a way is done to its appointment. */
function openMenu(item: ClothItem, at: DOMRect): void {
  const of = isWay(item.key) ? cloth.itemOf(wayOf(item.key)) : item
  if (of && !drag.justDropped()) onDraft.openMenu(of, at)
}
function onChosen(act: (item: ClothItem) => void): void {
  const [first] = acts.chosenItems()
  if (first) act(first)
}
/** With Ctrl a click chooses; the menu stays closed. */
function onClick(event: MouseEvent): void {
  if (!event.ctrlKey && !event.metaKey) return
  const key = (event.target as HTMLElement).closest<HTMLElement>('[data-key]')?.dataset.key
  const item = key && cloth.itemOf(key)
  if (!item || drag.justDropped()) return
  event.preventDefault()
  event.stopPropagation()
  acts.choose(item)
}
/** Marks what is chosen, wherever it is drawn. */
watch(
  [acts.chosen, data],
  () => {
    for (const e of root.value?.querySelectorAll<HTMLElement>('[data-key]') ?? [])
      e.toggleAttribute('data-chosen', acts.chosen.value.includes(e.dataset.key ?? ''))
  },
  { flush: 'post' },
)
const empty = computed(() => data.value !== undefined && data.value.sources.every(s => s.own))
const landing = computed(() =>
  drag.held.current ? onDraft.dropWords(drag.held.current) : { writes: '', keys: '' },
)
const heldWords = computed(() => {
  const held = drag.held.current
  return held
    ? `${held.item.title} · ${durationWords(lengthOf(held.item, data.value?.defaultMinutes ?? 30))}`
    : ''
})

const onShelf = computed(() => new Set(scene.shelf.value.flatMap(g => g.items.map(i => i.item.key))).size)
/** On a telephone the shelf lies far below the days: one step leads there, and one back. */
function show(area: 'cloth' | 'shelf'): void {
  const part = root.value?.querySelector(`[data-area="${area}"]`)
  part?.scrollIntoView({ block: 'start' })
}

/** Restores the focus after its row was drawn again. */
let focused: string | null = null
function onFocus(event: FocusEvent): void {
  focused = (event.target as HTMLElement).dataset.key ?? null
}
watch(
  data,
  () => {
    if (focused && document.activeElement === document.body) acts.focusOn(focused)
  },
  { flush: 'post' },
)
</script>

<template>
  <main
    ref="root"
    class="cloth-page"
    :class="{
      narrowed: acts.opened.value,
      drafting: draft.isOpen.value || isPreparing || offering.isOpen.value,
    }"
    @keydown="onDraft.onItemKey"
    @focusin="onFocus"
    @pointerdown="focused = null"
    @click.capture="onClick"
  >
    <SeesAs />
    <ClothHead
      :view="view"
      :scene="scene"
      :held="drag.held.current"
      @keys="acts.ask('keys')"
      @make="acts.makeByHand"
      @draft="onDraft.open"
      @prepare="prepare.open"
      :asked="offering.asks.value.length"
      @offer="offer()"
    >
      <DyeLegend v-if="data && body.dyed !== 'source'" :scene="scene" @set="view.set" />
      <NowStrip
        v-if="data"
        :items="cloth.todays.value"
        :me="data.me"
        :now="now"
        :zone="zone"
        :sources="scene.sources.value"
        @open="openMenu"
        @extend="acts.extend"
        @finish="acts.finishEarly"
        @later="acts.restLater"
        @tick="acts.tick"
        @focus="until => focus.begin(until)"
      />
    </ClothHead>

    <p v-if="cloth.trouble.value && !data" class="sheet notice" role="alert">{{ cloth.trouble.value }}</p>
    <div v-else-if="empty" class="sheet notice">
      <h2>Nothing is woven yet</h2>
      <p>The Cloth shows your calendars and tasks together. Connect the first one to begin.</p>
      <RouterLink to="/connections" class="push primary">Connect a service</RouterLink>
    </div>
    <template v-else-if="data">
      <ClothHours
        data-area="cloth"
        v-if="scene.drawnAs.value === 'hours'"
        :scene="scene"
        :held="drag.held.current"
        :windows="planning.windows"
        :offered-on="offering.spansOn"
        @toggle="onDraft.toggle"
        @window="onDraft.openWindow"
        @menu="openMenu"
        @load="acts.openLoad"
        @tick="acts.tick"
      />
      <ClothList
        data-area="cloth"
        v-else-if="scene.drawnAs.value === 'list'"
        :rows="scene.listRows.value"
        :zone="zone"
        :sources="scene.sources.value"
        :held="drag.held.current"
        @toggle="onDraft.toggle"
        @menu="openMenu"
      />
      <DayCells
        data-area="cloth"
        v-else
        :rows="scene.cells.value"
        :heading="scene.heading.value"
        :month="body.span === 'month' ? scene.at.value.slice(0, 7) : null"
        :zone="zone"
        :sources="scene.sources.value"
        :held="drag.held.current"
        @toggle="onDraft.toggle"
        @menu="openMenu"
        @day="scene.openDay"
      />
      <p v-if="scene.nothingShown.value" class="sheet notice quiet">
        {{ data.items.length }} items are here, but this view shows none of them.
        <button type="button" class="push small" @click="view.set({ filter: [], hidden: [], done: 'faded' })">
          Show everything
        </button>
      </p>
      <TheShelf
        :groups="scene.shelf.value"
        :lines="scene.lines"
        :beyond="data.beyond"
        :view="body"
        :sources="scene.sources.value"
        :held="drag.held.current"
        :away="scene.away.value.length"
        @toggle="acts.toggle"
        @menu="openMenu"
        @set="view.set"
        @away="acts.ask('away')"
      />
    </template>
    <p v-else class="quiet notice">Fetching the days…</p>

    <div
      v-if="drag.held.current && drag.held.current.by === 'whole'"
      class="ghost"
      :style="{
        transform: `translate(${drag.held.current.x + 12}px, calc(${drag.held.current.y - 16}px - 100%))`,
      }"
    >
      {{ heldWords }}
      <span v-if="landing.writes" class="writes">{{ landing.writes }}</span>
      <span v-if="landing.keys" class="writes">{{ landing.keys }}</span>
    </div>
    <nav
      v-if="scene.isNarrow.value && data && acts.chosen.value.length === 0"
      class="parts"
      aria-label="Parts of the Cloth"
    >
      <button type="button" @click="show('cloth')">Days</button>
      <button type="button" @click="show('shelf')">Shelf {{ onShelf }}</button>
    </nav>
    <ChosenBar
      v-if="acts.chosen.value.length > 0 && data"
      :items="acts.chosenItems()"
      :now="now"
      :zone="zone"
      :default-minutes="data.defaultMinutes"
      @act="outcome => onChosen(item => acts.perform(item, outcome))"
      @clear="acts.chosen.value = []"
    />
    <ClothDialogs
      v-if="data"
      :acts="acts"
      :scene="scene"
      windows
      @window="onDraft.newWindow"
      @offer="offer"
    />
    <ItemDrawer
      v-if="acts.opened.value"
      :item="acts.opened.value"
      :zone="zone"
      :now="now"
      :sources="scene.sources.value"
      @edit="acts.change"
      @go="acts.openKey"
      @only="c => view.set({ filter: [{ field: 'category', is: [c] }] })"
      @ask="acts.askFor"
      @batch="acts.setBatch"
      @close="acts.closeDrawer"
    />
    <AwayDrawer
      v-if="acts.asked.value?.kind === 'away'"
      :items="scene.away.value"
      :sources="scene.sources.value"
      :now="now"
      :zone="zone"
      @edit="acts.change"
      @close="acts.asked.value = null"
    />
    <PreparePanel
      v-if="isPreparing && data"
      :scene="scene"
      :prepare="prepare"
      :chosen="acts.chosen.value"
      @menu="openMenu"
      @edit="acts.change"
      @choose="acts.choose"
      @draft="onDraft.open"
    />
    <DraftPanel
      v-if="draft.isOpen.value && data"
      :scene="scene"
      :draft="draft"
      @rows="view.set({ rows: 'people' })"
      :held="drag.held.current"
      @edit="(item, edit) => void cloth.edit(item, edit)"
      @open="acts.openKey"
    />
    <OfferPanel
      v-if="offering.isOpen.value && data"
      :scene="scene"
      :offering="offering"
      @beside="besideOneAnother"
    />
    <LoadPanel
      v-if="acts.load.value && data"
      :row="scene.rows.value.find(r => r.key === acts.load.value?.row.key) ?? acts.load.value.row"
      :at="acts.load.value.at"
      :default-minutes="data.defaultMinutes"
      :can-send="sendRow.canSend(acts.load.value.row)"
      @lighten="onDraft.lighten"
      @send="acts.load.value && sendRow.send(acts.load.value.row)"
      @close="acts.load.value = null"
    />
    <SendDays
      v-if="sendRow.sending.value"
      :told="sendRow.sending.value"
      @close="sendRow.sending.value = null"
    />
  </main>
</template>

<style scoped>
.cloth-page {
  --label: 116px;
  --head: 172px;
  padding: 10px 14px 24px;
}
.cloth-page :deep([data-chosen]) {
  outline: 2px solid var(--amber);
  outline-offset: 1px;
}
.notice {
  padding: 28px;
}
.notice h2 {
  margin-bottom: 6px;
}
.writes {
  display: block;
  color: var(--band-quiet);
}
.ghost {
  position: fixed;
  left: 0;
  top: 0;
  z-index: 1000;
  pointer-events: none;
  background: var(--band);
  color: var(--band-ink);
  padding: 3px 9px;
  border-radius: 3px;
  font-size: 12.5px;
  box-shadow: var(--float);
}
@media (max-width: 720px) {
  .cloth-page {
    --label: 100px;
    --head: 110px;
    display: flex;
    flex-direction: column;
  }
  .cloth-page :deep(.shelf) {
    order: 1;
  }
}
@media (min-width: 1000px) {
  .cloth-page.drafting {
    padding-right: 404px;
  }
}
/* The item whose details are open stays in sight. */
@media (min-width: 1100px) {
  .cloth-page.narrowed {
    padding-right: 454px;
  }
}
/* Where the Cloth has made room, its acts are known by their signs. */
@media (min-width: 1100px) and (max-width: 1420px) {
  .cloth-page.narrowed :deep(.act) {
    position: absolute;
    width: 1px;
    height: 1px;
    overflow: hidden;
    clip-path: inset(50%);
  }
}
/* On a laptop the acts are known by their words, so that all of the head is one line. */
@media (min-width: 1001px) and (max-width: 1420px) {
  .cloth-page:not(.narrowed) :deep(.head .with-icon svg) {
    display: none;
  }
}
@media print {
  .cloth-page {
    padding: 0;
  }
}
/* What a step leads to is not under the band. */
.cloth-page :deep([data-area]) {
  scroll-margin-top: 58px;
}
.parts {
  position: fixed;
  inset: auto 0 0;
  z-index: 650;
  display: grid;
  grid-template-columns: 1fr 1fr;
  background: var(--cloth);
  border-top: 2px solid var(--warp-strong);
}
.parts button {
  appearance: none;
  border: 0;
  background: none;
  color: inherit;
  font: inherit;
  font-weight: 600;
  padding: 11px 0;
  cursor: pointer;
}
.parts button + button {
  border-left: 1px solid var(--warp);
}
</style>
