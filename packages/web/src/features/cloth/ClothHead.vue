<script setup lang="ts">
import {
  PhCalendarCheck,
  PhCaretLeft,
  PhCaretRight,
  PhDoorOpen,
  PhKeyboard,
  PhPlus,
  PhNeedle,
} from '@phosphor-icons/vue'
import {
  DYED_BY,
  isOurMark,
  isoWeekOf,
  mondayOf,
  PROPERTIES,
  type Property,
  stepped,
  type ViewBody,
} from '@loom/core/view'
import { useEventListener } from '@vueuse/core'
import { computed } from 'vue'
import PickOne from '../../ui/PickOne.vue'
import ChooseSome from '../../ui/ChooseSome.vue'
import { useMine } from '../../stores/mine.ts'
import { useSession } from '../../stores/session.ts'
import { isForPage } from '../../stores/own-keys.ts'
import SentenceChoice from '../../ui/SentenceChoice.vue'
import { STEP_WORDS } from './data/days.ts'
import type { Held } from './drag/drag.ts'
import { keyOf } from './data/keys.ts'
import SavedViews from './SavedViews.vue'
import SourcesPanel from './SourcesPanel.vue'
import type { Scene } from './data/use-scene.ts'
import type { View } from './data/use-view.ts'
import ViewFilter from './ViewFilter.vue'

/** Which days, how they are drawn and what of them: the steps through time, and the view as a sentence. */
const props = defineProps<{
  view: View
  scene: Scene
  held: Held | null
  /** How often colleagues ask for one's own time. */
  asked: number
}>()
const emit = defineEmits<{ keys: []; make: []; draft: []; prepare: []; offer: [] }>()
const mine = useMine()
const session = useSession()
const body = computed(() => props.scene.body.value)
const set = (patch: Partial<ViewBody>): void => props.view.set(patch)

const spans = computed((): { value: ViewBody['span']; label: string }[] => [
  { value: 'day', label: 'Day' },
  { value: 'days', label: `${body.value.days} days` },
  { value: 'work-week', label: 'Workdays' },
  { value: 'week', label: 'Week' },
  { value: 'month', label: 'Month' },
  { value: 'list', label: 'List' },
])
const ROWS: { value: ViewBody['rows']; label: string }[] = [
  { value: 'days', label: 'Days' },
  { value: 'people', label: 'People' },
  { value: 'sources', label: 'Sources' },
]
const COUNTS = Array.from({ length: 13 }, (_, i) => ({ value: i + 2, label: `${i + 2} days` }))
const DONE = [
  { value: 'faded' as const, label: 'faded' },
  { value: 'past' as const, label: 'only in the past' },
  { value: 'hidden' as const, label: 'not at all' },
]
const ZOOM = [
  { value: 1 as const, label: 'fit the day' },
  { value: 2 as const, label: 'are twice as wide' },
  { value: 4 as const, label: 'are four times as wide' },
]
const PROPERTY_WORDS: Record<Property, string> = {
  due: 'due date',
  estimate: 'estimate',
  priority: 'priority',
  pressure: 'pressure',
  list: 'list',
  person: 'people',
  place: 'place',
}
const DYED_WORDS: Record<ViewBody['dyed'], string> = {
  source: 'source',
  category: 'category',
  person: 'person',
  kind: 'kind',
}
const zones = computed(() => {
  const known = new Map((props.scene.data.value?.people ?? []).map(p => [p.zone, p.name]))
  known.delete(props.scene.zone.value)
  const more = ['UTC', 'America/New_York', 'Asia/Tokyo'].filter(
    z => z !== props.scene.zone.value && !known.has(z),
  )
  return [
    { value: '', label: 'one zone' },
    ...[...known].map(([value, name]) => ({ value, label: `${value} (${name})` })),
    ...more.map(value => ({ value, label: value })),
  ]
})
const words = computed(() => STEP_WORDS[body.value.span])
/** A month is drawn by weeks and a list by days, whoever it is of. */
const hasRows = computed(() => body.value.span !== 'month' && body.value.span !== 'list')
const isNow = computed(() => props.scene.dates.value.includes(props.scene.today.value))
const categories = computed(() =>
  [...new Set((props.scene.data.value?.items ?? []).flatMap(i => i.categories))]
    .filter(c => !isOurMark(c))
    .sort()
    .slice(0, 100),
)
const nextWeek = computed(() =>
  stepped({ span: 'week', days: 7 }, mondayOf(props.scene.dates.value[0] ?? props.scene.today.value), 1),
)
const overNext = computed(() => props.held?.target?.kind === 'later')

function step(by: 1 | -1): void {
  props.scene.go(stepped(body.value, props.scene.at.value, by))
}
function look(id: string, given: { name?: string; dye?: string }): void {
  const kept = Object.fromEntries(Object.entries(given).filter(([, v]) => v !== ''))
  void mine.change({ sources: { ...mine.settings.value.sources, [id]: kept } })
}
function onKey(event: KeyboardEvent): void {
  if (!isForPage(event)) return
  const { keys } = mine.settings.value
  if (event.key === keyOf('before', keys)) step(-1)
  else if (event.key === keyOf('after', keys)) step(1)
  else if (event.key === keyOf('now', keys)) props.scene.go(null)
}
useEventListener('keydown', onKey)
</script>

<template>
  <div class="head">
    <h1>{{ scene.heading.value }}</h1>
    <span v-if="body.span === 'week' || body.span === 'work-week'" class="quiet"
      >week {{ isoWeekOf(scene.dates.value[3] ?? scene.at.value) }}</span
    >
    <div class="steps">
      <button type="button" class="push" :aria-label="words.before" @click="step(-1)">
        <PhCaretLeft :size="15" />
      </button>
      <button type="button" class="push" :disabled="isNow" @click="scene.go(null)">{{ words.now }}</button>
      <span data-drop="later" :data-date="nextWeek" :class="{ over: overNext }">
        <button type="button" class="push" :aria-label="words.after" @click="step(1)">
          <PhCaretRight :size="15" />
        </button>
      </span>
    </div>
    <PickOne
      class="picks"
      name="Span"
      :options="spans"
      :model-value="body.span"
      @update:model-value="span => set({ span })"
    />
    <PickOne
      class="picks"
      :class="{ idle: !hasRows }"
      name="Rows"
      :options="ROWS"
      :disabled="!hasRows"
      :model-value="body.rows"
      @update:model-value="rows => set({ rows })"
    />
    <span class="spacer" />
    <button
      v-if="!session.onlyLooks && !session.seesAs"
      type="button"
      class="push with-icon"
      title="What waits for the week, what is free, and what is too full"
      @click="emit('prepare')"
    >
      <PhCalendarCheck :size="15" /> <span class="act">Prepare</span>
    </button>
    <button
      v-if="!session.onlyLooks && !session.seesAs"
      type="button"
      class="push with-icon"
      title="Propose times for what has none"
      @click="emit('draft')"
    >
      <PhNeedle :size="14" /> <span class="act">Draft</span>
    </button>
    <button
      v-if="!session.onlyLooks && !session.seesAs"
      type="button"
      class="push with-icon"
      :title="
        asked > 0 ? `Times that a guest can book. ${asked} ask for yours.` : 'Times that a guest can book'
      "
      @click="emit('offer')"
    >
      <PhDoorOpen :size="15" /> <span class="act">Offer</span>
      <b v-if="asked > 0" class="asked">{{ asked }}</b>
    </button>
    <button v-if="!session.onlyLooks" type="button" class="push with-icon" @click="emit('make')">
      <PhPlus :size="14" /> Add
    </button>
    <button
      type="button"
      class="push keys"
      aria-label="Keyboard shortcuts"
      title="Keyboard shortcuts (?)"
      @click="emit('keys')"
    >
      <PhKeyboard :size="17" />
    </button>
  </div>
  <div class="say">
    <SavedViews :view="view" />
    <span class="bar" aria-hidden="true" />
    <span>
      <template v-if="body.span === 'days'">
        <SentenceChoice
          :model-value="body.days"
          :options="COUNTS"
          name="How many days"
          @update:model-value="days => set({ days })"
        />
        of
      </template>
      <SourcesPanel
        :sources="scene.sources.value"
        :hidden="body.hidden"
        :items="scene.data.value?.items ?? []"
        :looks="mine.settings.value.sources"
        @hide="hidden => set({ hidden })"
        @look="look"
      />, showing
      <ViewFilter
        :model-value="body.filter"
        :lists="scene.sources.value"
        :people="scene.data.value?.people ?? []"
        :categories="categories"
        @update:model-value="filter => set({ filter })"
      />, done
      <SentenceChoice
        :model-value="body.done"
        :options="DONE"
        name="What is done"
        @update:model-value="done => set({ done })"
      />,
      <ChooseSome
        :model-value="body.shows"
        name="What is shown of a task"
        :label="`${body.shows.length} ${body.shows.length === 1 ? 'property' : 'properties'}`"
        :options="PROPERTIES.map(value => ({ value, label: PROPERTY_WORDS[value] }))"
        @update:model-value="shows => set({ shows })"
      />, coloured by
      <SentenceChoice
        :model-value="body.dyed"
        :options="DYED_BY.map(value => ({ value, label: DYED_WORDS[value] }))"
        name="What colours them"
        @update:model-value="dyed => set({ dyed })"
      /><template v-if="scene.drawnAs.value === 'hours'"
        >; hours
        <SentenceChoice
          :model-value="body.zoom"
          :options="ZOOM"
          name="How wide the axis is"
          @update:model-value="zoom => set({ zoom })" />,
        <SentenceChoice
          :model-value="body.secondZone ?? ''"
          :options="zones"
          name="A second time zone"
          @update:model-value="z => set({ secondZone: z === '' ? null : z })"
      /></template>
    </span>
    <slot />
  </div>
</template>

<style scoped>
.head {
  display: flex;
  align-items: center;
  gap: 8px 12px;
  flex-wrap: wrap;
}
.steps {
  display: flex;
  gap: 6px;
}
.over .push {
  outline: 2px solid var(--amber);
  background: var(--amber-wash);
}
.spacer {
  flex: 1;
}
.asked {
  padding: 0 6px;
  border-radius: 3px;
  background: var(--amber);
  color: var(--on-amber);
  font-size: 12.5px;
}
/* All of it on one line of a laptop. */
@media (min-width: 1001px) and (max-width: 1420px) {
  .head {
    gap: 8px;
  }
  .head .push {
    padding-inline: 9px;
  }
  .picks :deep(button) {
    padding-inline: 7px;
  }
}
@media (max-width: 420px) {
  h1 {
    font-size: 19px;
  }
  .steps {
    margin-left: auto;
  }
  .steps .push {
    padding: 4px 9px;
  }
  .picks.idle,
  .bar {
    display: none;
  }
}
.say {
  display: flex;
  align-items: baseline;
  flex-wrap: wrap;
  gap: 2px 10px;
  margin: 6px 0 8px;
  min-width: 0;
  color: var(--husk);
  line-height: 1.6;
}
.say :deep(.choice) {
  color: var(--peat);
}
.bar {
  align-self: center;
  width: 1px;
  height: 14px;
  background: var(--warp-strong);
}
/* Nobody reads up on keys where there are none. */
@media (max-width: 480px) and (pointer: coarse) {
  .keys {
    display: none;
  }
}
@media print {
  .steps,
  .picks,
  .say,
  .head > .push {
    display: none;
  }
}
</style>
