<script setup lang="ts">
import { minuteWords } from '../../../ui/telling.ts'
import { type Block, durationWords, isWay, wayOf } from '@loom/core/view'
import { computed } from 'vue'
import { useSession } from '../../../stores/session.ts'
import { KIND_WORDS, mayBeAsked } from '../data/words.ts'
import { edgeOf, PRIORITY_WORDS, type Source, sourceWords, stitchesOf } from '../data/signs.ts'
import { hyphenated } from '../../../ui/hyphens.ts'
import { useShownFacts } from '../data/shown-facts.ts'
import { isDrafted } from '../draft/drafted-items.ts'
import { usePieces } from '../draft/use-draft.ts'
import PriorityStitches from '../item/PriorityStitches.vue'
import ClashMark from '../item/ClashMark.vue'
import ConflictKnot from '../item/ConflictKnot.vue'
import TaskTick from '../item/TaskTick.vue'

const session = useSession()
const { pieceOf } = usePieces()
const props = defineProps<{
  block: Block
  axis: { from: number; to: number }
  /** Of text that it has room for. */
  lines: number
  /** Pixels; 0 before it is known. */
  minuteWidth: number
  sources: readonly Source[]
  day: string
  lifted: boolean
  clash: boolean
  /** A held task would go into this batch. */
  taking: boolean
}>()
const emit = defineEmits<{ toggle: []; menu: [at: DOMRect]; tick: [key: string, done: boolean] }>()

const item = computed(() => props.block.item)
/** What of a draft it is. */
const piece = computed(() => pieceOf(item.value.key))
const known = useShownFacts()
const dyes = computed(() => known.dyes(item.value))
const share = (minutes: number): string => `${(100 * minutes) / (props.axis.to - props.axis.from)}%`

/** What of it is on the axis; an end that is not is drawn torn. */
const seen = computed(() => ({
  from: Math.max(props.block.from, props.axis.from),
  to: Math.min(props.block.to, props.axis.to),
}))
const torn = computed(() => ({
  start: props.block.clipped.start || seen.value.from > props.block.from,
  end: props.block.clipped.end || seen.value.to < props.block.to,
}))
const place = computed(() => {
  const { lane, lanes } = props.block
  const { from, to } = seen.value
  return {
    left: share(from - props.axis.from),
    width: share(Math.max(to - from, 5)),
    top: `calc(${(100 * lane) / lanes}% + 2px)`,
    height: `calc(${100 / lanes}% - 4px)`,
    '--lines': props.lines,
  }
})
/** How far a short block's title may run over free space, as a share of its own width. */
const room = computed(() => {
  const { from, to } = seen.value
  return `${(100 * (Math.min(props.block.freeTo, props.axis.to) - from)) / Math.max(5, to - from)}%`
})
const span = computed(() => `${minuteWords(props.block.from)}–${minuteWords(props.block.to)}`)
/** Of taken time all that there is to say is whose it is. */
const title = computed(() => {
  const whose = item.value.onlyBusy ? known.whose(item.value) : ''
  return whose ? `Busy: ${whose}` : item.value.title
})
const name = computed(() => {
  const i = item.value
  if (i.onlyBusy) return `${title.value}, ${props.day}, ${span.value}`
  const done = i.kind === 'block' ? ', worked' : i.cancelled ? ', cancelled' : ', done'
  const state = i.done ? done : i.kind === 'event' && !i.busy ? ', shown free' : ''
  const clash = props.clash ? ', clashes with something else' : ''
  const urgent = PRIORITY_WORDS[stitchesOf(i.priority)]
  const more = `${clash}${i.conflict ? ', both sides changed it' : ''}${urgent ? `, ${urgent}` : ''}`
  const itemKind = i.batch.length > 0 ? `, ${i.batch.length} tasks` : ''
  if (piece.value)
    return `${i.title}, ${props.day}, ${span.value}, draft${piece.value.isPinned ? ', pinned' : ''}`
  return `${i.title}, ${props.day}, ${span.value}, ${KIND_WORDS[i.kind]}${itemKind}${state}${more}`
})
const isWork = computed(() => item.value.kind !== 'event')
/** A block can be marked as worked; a batch is done by its tasks. */
const ticks = computed(() => !piece.value && item.value.kind !== 'event' && item.value.kind !== 'batch')
const hint = computed(() => {
  const i = item.value
  const lines = [
    title.value,
    `${span.value} · ${durationWords(props.block.to - props.block.from)}`,
    i.location,
  ]
  return [...lines, sourceWords(i, props.sources), i.fixedBecause].filter(Boolean).join('\n')
})
const short = computed(() => seen.value.to - seen.value.from < 60)
/** There is free space beside it that its title may use. */
const spills = computed(
  () => short.value && Math.min(props.block.freeTo, props.axis.to) > seen.value.to && !torn.value.end,
)
const low = computed(() => props.lines < 2)
/** So narrow that words may have to be broken. */
const narrow = computed(() => !low.value && seen.value.to - seen.value.from <= 90)
/** Hardly a word fits on a line. */
const TIGHT_PX = 64
const tight = computed(
  () => narrow.value && !spills.value && (seen.value.to - seen.value.from) * props.minuteWidth < TIGHT_PX,
)
/** A batch lists its tasks where there is room for them. */
const parts = computed(() => (low.value || short.value ? [] : item.value.batch.slice(0, props.lines - 1)))
/** A block's length is drawn, so it is not said. */
const facts = computed(() => (low.value || short.value ? '' : known.of(item.value, ['estimate']).join(' · ')))
const openTasks = computed(() => item.value.batch.filter(t => !t.done).length)

function open(event: Event): void {
  emit('menu', (event.currentTarget as HTMLElement).getBoundingClientRect())
}
</script>

<template>
  <div
    class="block"
    :class="[
      item.kind === 'block' ? 'workblock' : item.kind,
      {
        done: item.done,
        free: item.kind === 'event' && !item.busy,
        pending: item.pending,
        lifted,
        low,
        short,
        spills,
        tight: tight && minuteWidth > 0,
        clash,
        taking,
        taken: item.onlyBusy,
        drafted: piece || (isWay(item.key) && isDrafted(wayOf(item.key))),
        pinned: piece?.isPinned,
        regular: piece && piece.regular !== null,
      },
      {
        flexible: isWork || ((item.movable || item.movableByOthers) && item.eventKind === 'focus'),
        clipStart: torn.start,
        clipEnd: torn.end,
      },
    ]"
    :style="{ ...place, '--dye': dyes[0], '--edge': edgeOf(dyes) }"
    role="group"
    tabindex="0"
    :aria-label="name"
    :title="hint"
    :data-key="item.key"
    :data-drag="item.movable || (session.mayAsk && mayBeAsked(item)) ? 'block' : undefined"
    :data-fixed="item.movable ? undefined : ''"
    :data-batch="item.kind === 'batch' ? '' : undefined"
    @click="open"
    @contextmenu.prevent="open"
  >
    <div class="label" :style="spills ? { '--room': room } : undefined">
      <div class="text">
        <ClashMark v-if="clash && !short" class="clash-mark" />
        <TaskTick
          v-if="ticks"
          :done="item.done"
          :title="item.title"
          :disabled="item.kind !== 'block' && !item.completable"
          :round="item.recurring"
          @toggle="emit('toggle')"
        />
        <span class="title">{{ narrow ? hyphenated(title, tight) : title }}</span>
        <span v-if="item.kind === 'batch'" class="count"
          >{{ openTasks }} of {{ item.batch.length }} open</span
        >
        <span v-for="t in parts" :key="t.key" class="part" :class="{ done: t.done }">
          <TaskTick
            :done="t.done"
            :title="t.title"
            :disabled="!t.completable"
            @toggle="emit('tick', t.key, !t.done)"
          /><span class="title">{{ t.title }}</span>
        </span>
        <PriorityStitches v-if="!low && known.shows('priority')" class="stitches" :priority="item.priority" />
        <span v-if="facts" class="where">{{ facts }}</span>
      </div>
    </div>
    <ConflictKnot v-if="item.conflict" class="knot" />
    <span v-if="item.movable && !torn.start" class="grip start" aria-hidden="true" />
    <span v-if="item.movable && !torn.end" class="grip end" aria-hidden="true" />
  </div>
</template>

<style scoped>
.block {
  position: absolute;
  box-sizing: border-box;
  border-radius: 3px;
  cursor: pointer;
  touch-action: none;
  user-select: none;
  min-width: 12px;
}
.block::before {
  content: '';
  position: absolute;
  inset: 0 auto 0 0;
  width: 5px;
  background: var(--edge);
  border-radius: 2px 0 0 2px;
}
.event {
  background: color-mix(in srgb, var(--dye) var(--tint), var(--cloth));
}
.event.taken {
  background: repeating-linear-gradient(90deg, var(--warp) 0 1px, transparent 1px 6px) var(--cloth);
  color: var(--husk);
  cursor: default;
}
.event.taken::before {
  background: var(--warp-strong);
}
.event.free {
  background: none;
  outline: 1px dashed color-mix(in srgb, var(--dye) 55%, var(--cloth));
  outline-offset: -1px;
}
.task,
.tied,
.workblock,
.batch {
  background: var(--cloth);
  border: 1px solid color-mix(in srgb, var(--dye) 45%, var(--warp));
}
/* Not yet there: hatched in amber, with a dashed outline; one that was pinned is outlined as a whole. */
.drafted {
  border: 1px dashed var(--amber);
  background:
    repeating-linear-gradient(
      -45deg,
      color-mix(in srgb, var(--amber) 22%, transparent) 0 2px,
      transparent 2px 9px
    ),
    var(--cloth);
}
.drafted.regular {
  border: 1px dotted var(--peat);
  background: var(--cloth);
}
.drafted.pinned {
  border: 2px solid var(--amber);
}
.flexible:not(.drafted) {
  border-bottom: 2px dotted color-mix(in srgb, var(--dye) 70%, var(--peat));
}
.text {
  position: absolute;
  inset: 3px auto 1px 10px;
  width: calc(100% - 13px);
  overflow: hidden;
  font-size: 12.5px;
  line-height: 1.25;
  overflow-wrap: anywhere;
  pointer-events: none;
}
.tied .text,
.task .text {
  inset-block-start: 2px;
}
/* As many lines as its row has room for; what does not fit says so. */
.short:not(.low) .text {
  display: -webkit-box;
  -webkit-box-orient: vertical;
  -webkit-line-clamp: var(--lines);
  inset-block-end: auto;
  overflow-wrap: break-word;
  hyphens: manual;
}
/*
 * A short block and the title that goes on beside it are one thing: what lies behind the title is of the same dye,
 * paler where the block has ended, and no edge runs through it.
 */
.spills {
  container-type: inline-size;
  border-right-color: transparent;
  border-top-right-radius: 0;
}
.label {
  display: contents;
}
.spills .label {
  display: block;
  position: absolute;
  width: max-content;
  max-width: min(var(--room), 190px);
  inset: 0 auto 0 5px;
  padding: 3px 6px 0 5px;
  box-sizing: border-box;
  border-radius: 0 3px 3px 0;
  pointer-events: none;
  background: linear-gradient(to right, transparent calc(100cqw - 5px), var(--beyond) calc(100cqw - 5px));
}
.spills .text {
  position: static;
  width: auto;
}
.event.spills {
  --beyond: color-mix(in srgb, var(--dye) calc(var(--tint) * 0.45), var(--cloth));
}
.task.spills,
.tied.spills,
.workblock.spills,
.batch.spills {
  --beyond: color-mix(in srgb, var(--dye) 5%, var(--cloth));
}
.tight .text {
  font-size: 11.5px;
  letter-spacing: -0.01em;
  overflow-wrap: normal;
}
.clash-mark {
  margin-right: 4px;
  vertical-align: -1px;
}
.title {
  display: inline;
}
.tick {
  pointer-events: auto;
  display: inline-block;
  vertical-align: -2px;
  margin-right: 6px;
}
.stitches {
  margin-left: 6px;
}
.where {
  display: block;
  color: var(--husk);
  font-size: 12px;
  white-space: nowrap;
  overflow: hidden;
  text-overflow: ellipsis;
}
.low .text {
  white-space: nowrap;
  text-overflow: ellipsis;
}
.knot {
  position: absolute;
  bottom: 6px;
  left: 11px;
  pointer-events: none;
}
.low .knot {
  bottom: 3px;
  left: auto;
  right: 4px;
}
.count {
  color: var(--husk);
  font-size: 12px;
  margin-left: 6px;
  white-space: nowrap;
}
.part {
  display: flex;
  align-items: center;
  gap: 5px;
  white-space: nowrap;
  font-size: 12px;
  line-height: 1.35;
}
.part .title {
  overflow: hidden;
  text-overflow: ellipsis;
}
.part .tick {
  margin-right: 0;
  width: 9px;
  height: 9px;
}
.taking {
  outline: 2px solid var(--amber);
  background: var(--amber-wash);
}
/* Two things at one time: a bracket over what would have to move. */
.clash::after {
  content: '';
  position: absolute;
  inset: -2px 0 auto 0;
  height: 7px;
  border: 3px solid var(--clay);
  border-bottom: 0;
  pointer-events: none;
}
/* Where a block is taken hold of to make it longer or shorter. */
.grip {
  position: absolute;
  inset: 0 -2px 0 auto;
  width: 8px;
  cursor: ew-resize;
}
.grip.start {
  inset: 0 auto 0 -2px;
}
.block:hover .grip::after {
  content: '';
  position: absolute;
  inset: 30% 3px;
  border-inline: 1px solid var(--husk);
}
/* Faded by what lies behind it; its words stay as readable as any. */
.done {
  --tint: 6%;
}
.done::before {
  opacity: 0.5;
}
.done .title {
  text-decoration: line-through;
  color: var(--husk);
}
.pending::after {
  content: '';
  position: absolute;
  inset: auto 4px 3px auto;
  width: 6px;
  height: 6px;
  border-radius: 50%;
  background: var(--amber);
}
.lifted {
  opacity: 0.35;
}
.clipStart {
  border-left-style: none;
}
.clipEnd {
  border-right-style: none;
}
.clipEnd:not(.short) {
  clip-path: polygon(0 0, 100% 0, calc(100% - 5px) 25%, 100% 50%, calc(100% - 5px) 75%, 100% 100%, 0 100%);
}
.block:hover {
  z-index: 2;
  box-shadow: inset 0 0 0 1px color-mix(in srgb, var(--dye) 60%, var(--peat));
}
.block:focus-visible {
  z-index: 3;
}
</style>
