<script setup lang="ts">
import {
  type ClothItem,
  type DayPlan,
  dayWords,
  decided,
  type Destination,
  DESTINATIONS,
  durationWords,
  type Edit,
  unplacedMinutes,
} from '@loom/core/view'
import { useEventListener } from '@vueuse/core'
import { computed, ref } from 'vue'
import { isForPage } from '../../stores/own-keys.ts'
import { edgeOf } from '../cloth/data/signs.ts'
import { useShownFacts } from '../cloth/data/shown-facts.ts'
import { walk } from '../../ui/walk.ts'

/** What is left over, each with where it could go; the proposal is marked, and one key takes all of them. */
const props = defineProps<{
  plan: DayPlan
  today: string
  itemOf: (key: string) => ClothItem | undefined
  defaultMinutes: number
}>()
const emit = defineEmits<{
  decide: [item: ClothItem, edit: Edit]
  all: [edits: { item: ClothItem; edit: Edit }[], said: string]
  give: [item: ClothItem]
  cancel: [item: ClothItem]
  menu: [item: ClothItem, at: DOMRect]
}>()

const known = useShownFacts()
const WORDS: Record<Destination, string> = {
  today: 'today',
  'this week': 'any day this week',
  'next week': 'next week',
  'no date': 'no date',
}
/** What was decided here stays in sight, so that it can be decided otherwise. */
const done = ref(new Map<string, Destination>())
const open = computed(() => props.plan.unfinished.filter(u => !done.value.has(u.item.key)))
const rows = computed(() => [
  ...open.value.map(u => ({ ...u, chosen: null as Destination | null })),
  ...[...done.value].flatMap(([key, chosen]) => {
    const item = props.itemOf(key)
    return item ? [{ item, from: null, proposal: chosen, chosen }] : []
  }),
])
const total = computed(() => rows.value.length)

const isMovable = (item: ClothItem): boolean => item.movable && !item.onlyLook
function decide(item: ClothItem, to: Destination): void {
  done.value = new Map(done.value).set(item.key, to)
  emit('decide', item, decided(to, props.today))
}
function takeAll(): void {
  const all = open.value.filter(u => isMovable(u.item))
  if (all.length === 0) return
  const next = new Map(done.value)
  for (const u of all) next.set(u.item.key, u.proposal)
  done.value = next
  emit(
    'all',
    all.map(u => ({ item: u.item, edit: decided(u.proposal, props.today) })),
    all.length === 1 ? `${all[0]?.item.title}: decided.` : `${all.length} decided as proposed.`,
  )
}
const KEY = 'a'
useEventListener('keydown', (event: KeyboardEvent) => {
  if (!isForPage(event) || event.key !== KEY) return
  event.preventDefault()
  takeAll()
})
/** Digits decide what has the focus. */
function onKey(event: KeyboardEvent, item: ClothItem): void {
  const to = DESTINATIONS[Number(event.key) - 1]
  if (!to || event.ctrlKey || event.metaKey || event.altKey || !isMovable(item)) return
  event.preventDefault()
  event.stopPropagation()
  const list = (event.currentTarget as HTMLElement).parentElement
  const next = (event.currentTarget as HTMLElement).nextElementSibling as HTMLElement | null
  decide(item, to)
  ;(next ?? list?.querySelector<HTMLElement>('[data-key]'))?.focus()
}
const factsOf = (item: ClothItem, from: string | null): string =>
  [
    item.estimate === null ? 'no estimate' : durationWords(unplacedMinutes(item, props.defaultMinutes)),
    item.due && item.due < props.today ? `was due ${dayWords(item.due)}` : '',
    item.due === props.today ? 'due today' : '',
    from ? `from ${dayWords(from)}` : '',
    item.slips === 1 ? 'slipped once' : item.slips > 1 ? `slipped ${item.slips} times` : '',
  ]
    .filter(Boolean)
    .join(' · ')
</script>

<template>
  <section class="sheet card" aria-label="Unfinished">
    <h2>
      Unfinished
      <span v-if="total > 0" class="quiet">{{ done.size }} of {{ total }} decided</span>
    </h2>
    <p v-if="total === 0" class="quiet">Nothing is left over, and nothing is overdue.</p>
    <div
      class="list"
      @keydown.down.prevent="e => walk(e.currentTarget as Element, 1)"
      @keydown.up.prevent="e => walk(e.currentTarget as Element, -1)"
    >
      <div
        v-for="{ item, from, proposal, chosen } in rows"
        :key="item.key"
        class="row"
        :class="{ settled: chosen !== null }"
        :style="{ '--edge': edgeOf(known.dyes(item)) }"
        role="group"
        tabindex="0"
        :aria-label="`${item.title}, ${factsOf(item, from)}${chosen ? `, ${WORDS[chosen]}` : ''}`"
        :data-key="item.key"
        data-drag="line"
        @keydown="e => onKey(e, item)"
      >
        <button
          type="button"
          class="plain title"
          tabindex="-1"
          @click="e => emit('menu', item, (e.currentTarget as HTMLElement).getBoundingClientRect())"
        >
          {{ item.title }}
        </button>
        <span class="quiet facts" :class="{ late: item.overdue && chosen === null }">{{
          factsOf(item, from)
        }}</span>
        <span class="chips" role="group" :aria-label="`Where ${item.title} goes`">
          <button
            v-for="(d, i) in DESTINATIONS"
            :key="d"
            type="button"
            class="chip"
            :class="{ proposed: chosen === null && d === proposal, on: d === chosen }"
            :aria-pressed="d === chosen"
            :title="`${WORDS[d]} (${i + 1})${chosen === null && d === proposal ? ', proposed' : ''}`"
            :disabled="!isMovable(item)"
            @click="decide(item, d)"
          >
            {{ WORDS[d] }}
          </button>
          <button type="button" class="chip" @click="emit('give', item)">assign…</button>
          <button v-if="item.completable" type="button" class="chip" @click="emit('cancel', item)">
            cancel task
          </button>
        </span>
      </div>
    </div>
    <footer v-if="open.length > 0">
      <button type="button" class="push small" :title="`All as proposed (${KEY})`" @click="takeAll">
        Take {{ open.length === 1 ? 'the proposal' : `all ${open.length} proposals` }}
      </button>
      <span class="quiet">What you leave undecided counts as <b>any day this week</b>, not as today.</span>
    </footer>
  </section>
</template>

<style scoped>
.card {
  padding: 0;
}
h2 {
  padding: 10px 12px;
  margin: 0;
  display: flex;
  gap: 8px;
  align-items: baseline;
}
h2 .quiet {
  font-size: 13.5px;
  font-weight: 400;
}
p {
  margin: 0;
  padding: 0 12px 12px;
}
.row {
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto;
  gap: 3px 10px;
  padding: 8px 12px 9px 26px;
  border-top: 1px solid var(--warp);
  position: relative;
  touch-action: none;
}
.row::before {
  content: '';
  position: absolute;
  inset: 9px auto 9px 12px;
  width: 5px;
  border-radius: 2px;
  background: var(--edge);
}
.settled .title {
  color: var(--husk);
}
.title {
  text-align: left;
  overflow-wrap: anywhere;
}
.facts {
  font-size: 12.5px;
  text-align: right;
}
.late {
  color: var(--clay);
}
.chips {
  grid-column: 1 / -1;
  display: flex;
  flex-wrap: wrap;
  gap: 4px;
}
.chip {
  appearance: none;
  font: inherit;
  font-size: 12.5px;
  line-height: 1.3;
  padding: 1px 7px;
  border: 1px solid var(--warp-strong);
  border-radius: 3px;
  background: var(--cloth);
  color: var(--peat);
  cursor: pointer;
}
.chip:hover:enabled {
  border-color: var(--amber);
}
.chip:disabled {
  opacity: 0.5;
  cursor: default;
}
.proposed {
  border: 1px dashed var(--amber);
  background: var(--amber-wash);
}
.on {
  border: 1px solid var(--amber);
  background: var(--amber-wash);
  font-weight: 700;
}
footer {
  border-top: 1px solid var(--warp);
  padding: 9px 12px;
  display: flex;
  flex-wrap: wrap;
  gap: 6px 12px;
  align-items: center;
  font-size: 13px;
}
</style>
