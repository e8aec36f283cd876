<script setup lang="ts">
import type { NotEarlierTold, PieceOf } from '@loom/core/planning'
import { type ClothItem, dayWords, durationWords } from '@loom/core/view'
import { computed, ref, watch } from 'vue'
import { edgeOf } from '../data/signs.ts'
import { useShownFacts } from '../data/shown-facts.ts'
import { pieceKey } from './drafted-items.ts'
import { type ReasonDay, reasonDays, type ReasonTerms, spanInWords } from './reason-words.ts'

/** A task of the draft: when it is to be done; opened, why not earlier, and what can be done about it. */
const props = defineProps<{
  title: string
  item: ClothItem | null
  pieces: readonly PieceOf[]
  when: string
  /** Minutes after its deadline. */
  late: number
  /** It has no estimate. */
  guessed: boolean
  /** Its category usually takes so many times as long as estimated, and that is counted. */
  factor: number | null
  /** The key of the piece that is open. */
  selected: string | null
  zone: string
  terms: ReasonTerms
  why: (piece: PieceOf) => Promise<NotEarlierTold[]>
}>()
const emit = defineEmits<{
  select: [key: string | null]
  pin: [piece: PieceOf]
  unpin: [piece: PieceOf]
  leave: [piece: PieceOf]
  apply: [pieces: readonly PieceOf[]]
  estimate: [minutes: number]
}>()

const known = useShownFacts()
const dyes = computed(() => (props.item ? known.dyes(props.item) : []))
const open = computed(() => props.pieces.find(p => pieceKey(p) === props.selected) ?? null)
const lengthWords = (p: PieceOf): string => durationWords((p.toMs - p.fromMs) / 60_000)
const facts = computed(() => {
  const { pieces, item, guessed, late, factor } = props
  const total = pieces.reduce((sum, p) => sum + (p.toMs - p.fromMs) / 60_000, 0)
  return [
    `${durationWords(total)}${guessed ? ', no estimate' : ''}`,
    factor !== null && item?.estimate
      ? `${factor} times its estimate, as ${item.categories[0]} usually takes`
      : '',
    pieces.length > 1 ? `in ${pieces.length} parts` : '',
    item?.due ? `due ${dayWords(item.due)}` : '',
    pieces.some(p => p.regular !== null) ? 'regular' : '',
    pieces.some(p => p.givesWay) ? 'gives way' : pieces.some(p => p.isPinned) ? 'pinned' : '',
    late > 0 ? `${durationWords(late)} of it too late` : '',
  ].filter(Boolean)
})

const days = ref<ReasonDay[] | null>(null)
watch(
  [open, () => props.terms],
  async ([piece]) => {
    if (!piece || piece.isPinned) days.value = null
    else {
      const found = await props.why(piece)
      if (open.value === piece) days.value = reasonDays(found, props.terms)
    }
  },
  { immediate: true },
)
function toggle(): void {
  const [first] = props.pieces
  emit('select', open.value || !first ? null : pieceKey(first))
}
function estimate(event: Event): void {
  const minutes = Number((event.target as HTMLInputElement).value)
  if (Number.isInteger(minutes) && minutes >= 5 && minutes <= 100_000) emit('estimate', minutes)
}
</script>

<template>
  <div class="line" :class="{ open, late: late > 0 }" :style="{ '--edge': edgeOf(dyes) }">
    <button type="button" class="plain what" :aria-expanded="open !== null" @click="toggle">
      <span class="title">{{ title }}</span>
      <span class="quiet when">{{ when }}</span>
      <span class="quiet facts">{{ facts.join(' · ') }}</span>
    </button>
    <div v-if="open" class="more">
      <template v-if="pieces.length > 1">
        <button
          v-for="p in pieces"
          :key="pieceKey(p)"
          type="button"
          class="plain part"
          :aria-pressed="p === open"
          @click="emit('select', pieceKey(p))"
        >
          {{ spanInWords(p, zone) }} · {{ lengthWords(p) }}
        </button>
      </template>
      <p v-else class="quiet">{{ spanInWords(open, zone) }}</p>
      <p v-if="open.givesWay" class="quiet">It is moved here for what has no other place.</p>
      <p v-else-if="open.isPinned" class="quiet">You put it there. The rest is drafted around it.</p>
      <template v-else-if="days">
        <p v-if="days.length === 0" class="quiet">It could not begin earlier: this is the first free time.</p>
        <template v-else>
          <p class="quiet">Why not earlier:</p>
          <dl>
            <template v-for="d in days" :key="d.day">
              <dt>{{ d.day }}</dt>
              <dd v-for="l in d.lines" :key="l.span">
                <span class="span">{{ l.span }}</span> {{ l.why }}
              </dd>
            </template>
          </dl>
        </template>
      </template>
      <label v-if="item && !item.onlyLook && !open.givesWay" class="estimate quiet">
        Estimate
        <input
          class="native"
          type="number"
          min="5"
          step="5"
          :value="item.estimate ?? ''"
          placeholder="none"
          @change="estimate"
        />
        min
      </label>
      <div class="acts">
        <button v-if="open.isPinned" type="button" class="push small" @click="emit('unpin', open)">
          {{ open.givesWay ? 'Leave it where it was' : 'Unpin' }}
        </button>
        <button v-else type="button" class="push small" @click="emit('pin', open)">Pin here</button>
        <button v-if="!open.givesWay" type="button" class="push small" @click="emit('leave', open)">
          Leave out
        </button>
        <button type="button" class="push small" @click="emit('apply', pieces)">Apply only this</button>
      </div>
    </div>
  </div>
</template>

<style scoped>
.line {
  border-top: 1px solid var(--warp);
  position: relative;
  padding: 7px 14px 7px 24px;
}
.line::before {
  content: '';
  position: absolute;
  inset: 8px auto 8px 14px;
  width: 4px;
  background: var(--edge);
  border-radius: 2px;
}
.what {
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto;
  gap: 1px 10px;
  width: 100%;
  text-align: left;
}
.title {
  overflow-wrap: anywhere;
}
.what:hover .title {
  text-decoration: underline;
}
.when {
  text-align: right;
  white-space: nowrap;
}
.facts {
  grid-column: 1 / -1;
  font-size: 12.5px;
}
.late .facts {
  color: var(--clay);
}
.more {
  display: grid;
  gap: 5px;
  padding-top: 6px;
}
.more p,
dl,
dd {
  margin: 0;
}
dl {
  display: grid;
  gap: 2px;
  font-size: 12.5px;
}
dt {
  font-weight: 600;
}
.span {
  color: var(--husk);
  margin-right: 4px;
}
.part {
  text-align: left;
  padding: 2px 6px;
  border-radius: 2px;
}
.part[aria-pressed='true'] {
  box-shadow: inset 3px 0 0 var(--amber);
  font-weight: 600;
}
.estimate {
  display: flex;
  gap: 6px;
  align-items: center;
}
.estimate input {
  width: 76px;
}
.acts {
  display: flex;
  gap: 6px;
  flex-wrap: wrap;
}
</style>
