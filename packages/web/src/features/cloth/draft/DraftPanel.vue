<script setup lang="ts">
import type { NotPlacedOf, PieceOf, PlanSentence } from '@loom/core/planning'
import { type ClothItem, dayAt, dayWords, durationWords, type Edit } from '@loom/core/view'
import { computed, nextTick, ref, useTemplateRef, watch } from 'vue'
import { clockWords } from '../../../ui/telling.ts'
import PlainChoice from '../../../ui/PlainChoice.vue'
import { useAttempt } from '../../../ui/attempt.ts'
import { partInOurTheme } from '../../../ui/in-our-theme.ts'
import type { Scene } from '../data/use-scene.ts'
import type { Held } from '../drag/drag.ts'
import DraftLine from './DraftLine.vue'
import DraftNotPlaced from './DraftNotPlaced.vue'
import DraftSentence from './DraftSentence.vue'
import { pieceKey } from './drafted-items.ts'
import type { DraftState, LeftOut } from './use-draft.ts'
import { useApplying } from './use-applying.ts'
import { useDrafting } from './use-drafting.ts'

/** A draft of one's own time, or of the team's: what is asked for, what is placed and why, what is not, and applying it. */
const props = defineProps<{ scene: Scene; draft: DraftState; held: Held | null }>()
const emit = defineEmits<{ edit: [item: ClothItem, edit: Edit]; open: [key: string]; rows: [] }>()
const PlanningTerms = partInOurTheme(() => import('./PlanningTerms.vue'))

const drafting = useDrafting(props.scene, props.draft, () => props.held)
const { attempt, reason } = useAttempt()
const say = (patch: Partial<PlanSentence>): void => void attempt(() => drafting.say(patch))
const settingTerms = ref(false)
function closeTerms(): void {
  settingTerms.value = false
  props.draft.windowDone()
}
const told = computed(() => props.draft.told.value)
const zone = computed(() => props.scene.zone.value)
const me = computed(() => props.scene.data.value?.me ?? '')
const nameOf = (person: string): string => (person === me.value ? 'You' : props.scene.nameOf(person))
/** What stands in the time of that person is what keeps theirs from being earlier. */
const termsOf = computed(() => {
  const { titleOf, whose, items } = drafting
  const all = whose.value.map(person => {
    const own = items.value.filter(i => i.people.length === 0 || i.people.includes(person))
    return [person, { zone: zone.value, titleOf, items: own, hours: props.scene.hoursOf(person) }] as const
  })
  return new Map(all)
})
const NOBODY = computed(() => ({
  zone: zone.value,
  titleOf: drafting.titleOf,
  items: [],
  hours: props.scene.hoursOf(me.value),
}))
const termsFor = (person: string) => termsOf.value.get(person) ?? NOBODY.value
const isForSeveral = computed(() => drafting.whose.value.length > 1)
const isForOthers = computed(() => drafting.whose.value.some(p => p !== me.value))

/** The pieces of a task or a regular together, by when it is begun. */
const placed = computed(() => {
  const groups = new Map<string, PieceOf[]>()
  for (const p of told.value?.pieces ?? []) {
    const id = p.regular ?? p.id
    groups.set(id, [...(groups.get(id) ?? []), p])
  }
  return [...groups].flatMap(([id, pieces]) => {
    const [first] = pieces
    return first ? [{ id, pieces, person: first.person, item: drafting.itemOf(id) }] : []
  })
})
/** One after the other, as the rows of the Cloth are. */
const placedBy = computed(() =>
  drafting.whose.value.flatMap(person => {
    const lines = placed.value.filter(g => g.person === person)
    const all = lines.flatMap(g => g.pieces)
    return lines.length > 0 ? [{ person, lines, minutes: minutesOf(all) }] : []
  }),
)
const minutesOf = (pieces: readonly PieceOf[]): number =>
  pieces.reduce((sum, p) => sum + (p.toMs - p.fromMs) / 60_000, 0)
/** Of a regular all times together. */
const notPlaced = computed(() => {
  const found: (NotPlacedOf & { times: number })[] = []
  for (const n of told.value?.notPlaced ?? []) {
    const same = n.regular === null ? undefined : found.find(f => f.regular === n.regular)
    if (same) same.times++
    else found.push({ ...n, times: 1 })
  }
  return found
})
const minutes = computed(() => minutesOf(told.value?.pieces ?? []))
const lateOf = (id: string): number => told.value?.late.find(l => l.id === id)?.minutes ?? 0
const deadlines = computed(() => {
  const late = told.value?.late.length ?? 0
  const dated = placed.value.some(g => g.item?.due)
  if (late > 0) return late === 1 ? 'one after its deadline' : `${late} after their deadline`
  return dated ? 'no deadline missed' : ''
})
const hasNoHours = computed(() =>
  drafting.whose.value.filter(person => props.scene.hoursOf(person).minutes.every(m => m === 0)),
)

const { ALL, which, choices, applying, apply, applyChosen } = useApplying(props.scene, props.draft, drafting)
const dayOf = (p: PieceOf): string => dayAt(p.fromMs, zone.value)

function leaveOut(piece: PieceOf): void {
  const { id, regular } = piece
  const out: LeftOut = {
    id,
    title: drafting.titleOf(id),
    regular: regular === null ? null : { id: regular, date: dayOf(piece) },
  }
  props.draft.leave(out)
}

const panel = useTemplateRef<HTMLElement>('panel')
watch(
  () => props.draft.selected.value,
  async key => {
    if (key === null) return
    await nextTick()
    const line = panel.value?.querySelector(`[data-line="${CSS.escape(key)}"]`)
    line?.scrollIntoView({ block: 'nearest' })
    // Whoever is in the Cloth, or in the line itself, stays there.
    if (document.activeElement?.closest('[data-key]') || line?.contains(document.activeElement)) return
    line?.querySelector<HTMLElement>('button')?.focus({ preventScroll: true })
  },
)
/** When it begins, or on which days. */
function whenOf(pieces: readonly PieceOf[]): string {
  const [first, ...more] = pieces
  if (!first) return ''
  const day = (p: PieceOf): string => dayWords(dayOf(p)).replace(/ \w+$/, '')
  return more.length === 0
    ? `${day(first)} ${clockWords(first.fromMs, zone.value)}`
    : pieces.map(p => day(p).split(' ')[0]).join(', ')
}
</script>

<template>
  <aside ref="panel" class="panel sheet" aria-label="Draft" tabindex="-1">
    <PlanningTerms
      v-if="settingTerms || (draft.window.value !== null && drafting.areTermsThere.value)"
      :scene="scene"
      :planning="drafting.planning.value"
      :asked="draft.window.value"
      @answered="draft.windowDone"
      @close="closeTerms"
    />
    <template v-else>
      <header>
        <div class="top">
          <h2>Draft</h2>
          <button
            type="button"
            class="push small"
            title="Look for another one that is as good"
            @click="drafting.again"
          >
            Draft again
          </button>
        </div>
        <p class="quiet">
          {{ dayWords(drafting.today.value)
          }}<template v-if="drafting.last.value !== drafting.today.value">
            – {{ dayWords(drafting.last.value) }}</template
          >. Nothing is written before you apply it.
        </p>
        <DraftSentence
          :sentence="drafting.sentence.value"
          :windows="drafting.planning.value.windows.length"
          :people="drafting.people.value"
          :me="me"
          @say="say"
        />
        <button type="button" class="plain link" @click="settingTerms = true">
          Work windows, regulars, travel
        </button>
        <p v-if="reason || drafting.trouble.value || drafting.fetchTrouble.value" class="wrong" role="alert">
          {{ reason || drafting.trouble.value || drafting.fetchTrouble.value }}
        </p>
        <p v-if="hasNoHours.includes(me)" class="wrong" role="alert">
          You have no working hours, so there is no time to plan into.
          <RouterLink to="/me">Set them</RouterLink>
        </p>
        <p v-if="hasNoHours.some(p => p !== me)" class="quiet">
          Without working hours, and so without time:
          {{
            hasNoHours
              .filter(p => p !== me)
              .map(nameOf)
              .join(', ')
          }}.
        </p>
        <p v-if="isForOthers" class="quiet">
          Only what you see of the others’ time is minded. What you may not write, they are asked for.
          <button
            v-if="scene.body.value.rows !== 'people'"
            type="button"
            class="plain link"
            @click="emit('rows')"
          >
            A row for each person
          </button>
        </p>
        <p v-if="drafting.progress.value < 1" class="progress">
          <progress :value="drafting.progress.value" aria-label="How far the draft is" />
          <button type="button" class="push small" @click="drafting.enough">Take it as it is</button>
        </p>
      </header>

      <div v-if="told" class="scroll">
        <h3>
          {{ placed.length }} placed{{ notPlaced.length > 0 ? `, ${notPlaced.length} not` : '' }}
          <span class="quiet"
            >{{ minutes > 0 ? durationWords(minutes) : '' }}{{ deadlines ? ` · ${deadlines}` : ''
            }}{{ told.isUnfinished ? ' · not finished' : '' }}</span
          >
        </h3>
        <p v-if="placed.length === 0" class="quiet none">
          {{
            told.notPlaced.length > 0
              ? 'Nothing has room on these days.'
              : 'Everything has its time already, or nothing passes what the sentence asks for.'
          }}
        </p>
        <template v-for="by in placedBy" :key="by.person">
          <h4 v-if="isForSeveral">
            {{ nameOf(by.person) }} <span class="quiet">{{ durationWords(by.minutes) }}</span>
          </h4>
          <DraftLine
            v-for="g in by.lines"
            :key="g.id"
            :title="drafting.titleOf(g.id)"
            :item="g.item ?? null"
            :pieces="g.pieces"
            :when="whenOf(g.pieces)"
            :late="lateOf(g.id)"
            :factor="
              by.person === me ? (drafting.planning.value.factors[g.item?.categories[0] ?? ''] ?? null) : null
            "
            :guessed="told.withoutEstimate.includes(g.id)"
            :selected="draft.selected.value"
            :data-line="g.pieces.map(pieceKey).find(k => k === draft.selected.value) ?? g.id"
            :zone="zone"
            :terms="termsFor(by.person)"
            :why="drafting.whyNotEarlier"
            @select="draft.select"
            @pin="p => draft.pin(p, { fromMs: p.fromMs, toMs: p.toMs })"
            @unpin="draft.unpin"
            @leave="leaveOut"
            @apply="apply"
            @estimate="m => g.item && emit('edit', g.item, { do: 'estimate', minutes: m })"
          />
        </template>

        <DraftNotPlaced
          :told="told"
          :not-placed="notPlaced"
          :drafting="drafting"
          :draft="draft"
          :zone="zone"
          :who="n => (isForSeveral ? `${nameOf(n.person)}: ` : '')"
          :terms-for="termsFor"
          :nobody="NOBODY"
          @open="key => emit('open', key)"
        />
      </div>
      <p v-else class="quiet none">Drafting…</p>

      <footer>
        <button
          type="button"
          class="push primary"
          :disabled="applying || !told || told.pieces.length === 0"
          @click="applyChosen"
        >
          {{ applying ? 'Applying…' : 'Apply' }}
        </button>
        <PlainChoice
          v-if="told && told.pieces.length > 0"
          :model-value="which"
          name="What is applied"
          :options="choices"
          @update:model-value="v => (which = v ?? ALL)"
        />
        <span class="spacer" />
        <button type="button" class="push" @click="draft.close">Discard</button>
      </footer>
    </template>
  </aside>
</template>

<style scoped>
/* Its lines follow a hand on the Cloth: their layout is their own. */
.panel {
  contain: layout;
  position: fixed;
  inset: 58px 14px 14px auto;
  width: 376px;
  z-index: 600;
  display: flex;
  flex-direction: column;
  box-sizing: border-box;
  min-height: 0;
}
.panel:focus {
  outline: none;
}
header {
  padding: 12px 14px;
  display: grid;
  gap: 4px;
}
header p {
  margin: 0;
}
.top {
  display: flex;
  justify-content: space-between;
  align-items: baseline;
}
.link {
  justify-self: start;
  color: var(--amber);
  text-decoration: underline;
  padding: 2px 0;
}
.progress {
  display: flex;
  gap: 10px;
  align-items: center;
}
progress {
  flex: 1;
  height: 6px;
  accent-color: var(--amber);
}
.scroll {
  flex: 1;
  min-height: 0;
  overflow: auto;
  border-top: 1px solid var(--warp);
}
/* Also those of what is not placed. */
.scroll :deep(h3) {
  margin: 0;
  padding: 6px 14px;
  background: var(--linen);
  font-size: 14px;
  display: flex;
  justify-content: space-between;
  align-items: baseline;
  gap: 10px;
  position: sticky;
  top: 0;
  z-index: 1;
}
.scroll :deep(h3 .quiet) {
  font-weight: 400;
  font-size: 12.5px;
  text-align: right;
}
h4 {
  margin: 0;
  padding: 8px 14px 3px;
  display: flex;
  justify-content: space-between;
  gap: 10px;
}
h4 .quiet {
  font-weight: 400;
  font-size: 12.5px;
}
.none {
  padding: 10px 14px;
  margin: 0;
}
footer {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  align-items: center;
  padding: 10px 14px;
  border-top: 1px solid var(--warp-strong);
}
.spacer {
  flex: 1;
}
.wrong {
  color: var(--clay);
}
@media (max-width: 999px) {
  .panel {
    inset: auto 0 0;
    width: auto;
    max-height: 60vh;
    z-index: 700;
  }
}
</style>
