<script setup lang="ts">
import {
  type ClothItem,
  dayAt,
  type DayPlan,
  dayWords,
  durationWords,
  type Relief,
  unplacedMinutes,
  type WayToFit,
} from '@loom/core/view'
import { computed } from 'vue'
import { clockWords } from '../../ui/telling.ts'
import { edgeOf } from '../cloth/data/signs.ts'
import { useShownFacts } from '../cloth/data/shown-facts.ts'
import TaskTick from '../cloth/item/TaskTick.vue'

/** What is planned for the day, by the hour and without one, and whether it fits what is left of it. */
const props = defineProps<{
  plan: DayPlan
  /** How it would fit; null where none is needed, or it is not known yet. */
  way: WayToFit | null
  zone: string
  matters: readonly string[]
  defaultMinutes: number
}>()
const emit = defineEmits<{
  menu: [item: ClothItem, at: DOMRect]
  toggle: [item: ClothItem]
  matters: [item: ClothItem]
  fit: []
}>()
const known = useShownFacts()
const MOST_THAT_MATTER = 3

const rows = computed(() => {
  const { placed, untimed } = props.plan
  const all = [...placed, ...untimed]
  const rank = (i: ClothItem): number => Number(!props.matters.includes(keyOf(i)))
  return all.sort((x, y) => rank(x) - rank(y))
})
/** A block counts for its task. */
const keyOf = (i: ClothItem): string => i.of ?? i.key
const whenOf = (item: ClothItem): string =>
  item.place.kind === 'timed'
    ? `${clockWords(item.place.startMs, props.zone)}–${clockWords(item.place.endMs, props.zone)}`
    : item.estimate === null
      ? 'no hour · no estimate'
      : `no hour · ${durationWords(unplacedMinutes(item, props.defaultMinutes))}`
const wayWords = ({ item, startMs }: Relief): string =>
  `${item.title} to ${dayWords(dayAt(startMs, props.zone)).replace(/ \w+$/, '')} ${clockWords(startMs, props.zone)}`
</script>

<template>
  <section class="sheet card" aria-label="Planned">
    <h2>Planned <span class="quiet">up to three can be marked as what matters</span></h2>
    <p v-if="rows.length === 0" class="quiet none">No work is planned for today. Appointments stand above.</p>
    <div
      v-for="item in rows"
      :key="item.key"
      class="row"
      :class="{ first: matters.includes(keyOf(item)) }"
      :style="{ '--edge': edgeOf(known.dyes(item)) }"
      role="group"
      tabindex="0"
      :aria-label="`${item.title}, ${whenOf(item)}${matters.includes(keyOf(item)) ? ', matters most' : ''}`"
      :data-key="item.key"
      data-drag="line"
    >
      <TaskTick
        :done="item.done"
        :title="item.title"
        :disabled="item.kind !== 'block' && !item.completable"
        :round="item.recurring"
        @toggle="emit('toggle', item)"
      />
      <button
        type="button"
        class="plain title"
        tabindex="-1"
        @click="e => emit('menu', item, (e.currentTarget as HTMLElement).getBoundingClientRect())"
      >
        {{ item.title }}
      </button>
      <span class="quiet when">{{ whenOf(item) }}</span>
      <button
        type="button"
        class="plain mark"
        :aria-pressed="matters.includes(keyOf(item))"
        :aria-label="`${item.title} matters most today`"
        :title="
          matters.length >= MOST_THAT_MATTER ? 'In place of the one marked first' : 'Matters most today'
        "
        @click="emit('matters', keyOf(item) === item.key ? item : { ...item, key: keyOf(item) })"
      >
        <i aria-hidden="true" />
      </button>
    </div>
    <div v-if="plan.left.over > 0" class="over" role="status">
      Too much by <b>{{ durationWords(plan.left.over) }}</b>.
      <template v-if="way && way.moves.length > 0">
        <button type="button" class="plain link" @click="emit('fit')">
          {{ way.moves.map(wayWords).join(', ') }}
        </button>
        {{ way.over > 0 ? `would leave ${durationWords(way.over)} too much.` : 'would make it fit.' }}
      </template>
      <template v-else-if="way">Nothing of it can be moved to free time in the next days.</template>
    </div>
    <p v-else class="fits" role="status">
      It fits: {{ durationWords(plan.left.holds) }} of work are left of today,
      {{ durationWords(plan.left.fixed + plan.left.placed + plan.left.untimed) }} are planned.
    </p>
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
  flex-wrap: wrap;
  gap: 0 8px;
  align-items: baseline;
}
h2 .quiet {
  font-size: 13.5px;
  font-weight: 400;
}
.none {
  margin: 0;
  padding: 0 12px 10px;
}
.row {
  display: grid;
  grid-template-columns: auto minmax(0, 1fr) auto auto;
  gap: 10px;
  align-items: center;
  padding: 8px 12px 8px 26px;
  border-top: 1px solid var(--warp);
  position: relative;
  touch-action: none;
}
.row::before {
  content: '';
  position: absolute;
  inset: 8px auto 8px 12px;
  width: 5px;
  border-radius: 2px;
  background: var(--edge);
}
.title {
  text-align: left;
  overflow-wrap: anywhere;
}
.first .title {
  font-weight: 700;
}
.when {
  font-size: 12.5px;
  white-space: nowrap;
}
.mark {
  padding: 6px 2px;
}
.mark i {
  display: block;
  width: 12px;
  height: 3px;
  background: var(--warp-strong);
  border-radius: 1px;
}
.mark[aria-pressed='true'] i {
  background: var(--amber);
}
.over {
  padding: 10px 12px;
  background: color-mix(in srgb, var(--clay) 14%, var(--cloth));
  border-top: 1px solid var(--warp);
}
.fits {
  margin: 0;
  padding: 10px 12px;
  border-top: 1px solid var(--warp);
  color: var(--husk);
}
/* Amber on this ground is too faint to be read. */
.link {
  color: inherit;
  text-decoration: underline;
  text-align: left;
  display: inline;
}
</style>
