<script setup lang="ts">
import { clockWords } from '../../../ui/telling.ts'
import { type ClothItem, durationWords, MINUTE } from '@loom/core/view'
import { computed } from 'vue'
import { edgeOf, type Source } from '../data/signs.ts'
import { useShownFacts } from '../data/shown-facts.ts'
import TaskTick from '../item/TaskTick.vue'
import { useNowTitle } from '../data/use-now-title.ts'

/** The current item with its tasks, and the next one when it is near. */
const props = defineProps<{
  items: readonly ClothItem[]
  me: string
  now: number
  zone: string
  sources: readonly Source[]
}>()
const emit = defineEmits<{
  open: [item: ClothItem, at: DOMRect]
  extend: [item: ClothItem]
  finish: [item: ClothItem]
  later: [item: ClothItem]
  tick: [key: string, done: boolean]
  focus: [untilMs: number]
}>()

const mine = computed(() =>
  props.items
    .flatMap(i => (i.place.kind === 'timed' ? [{ item: i, ...i.place }] : []))
    .filter(
      ({ item, startMs, endMs }) =>
        !item.done &&
        !item.leftOut &&
        item.busy &&
        endMs > startMs &&
        (item.people.length === 0 || item.people.includes(props.me)),
    )
    .sort((x, y) => x.startMs - y.startMs),
)
/** Of several, what began last: that is what one has turned to. */
const current = computed(
  () => mine.value.filter(i => i.startMs <= props.now && i.endMs > props.now).at(-1) ?? null,
)
const next = computed(() => mine.value.find(i => i.startMs > props.now) ?? null)
/** What stands where the current one would be, fifteen minutes longer. */
const givesWay = computed(() => {
  const now = current.value
  return now
    ? (mine.value.find(
        i => i !== now && i.startMs < now.endMs + MORE_MS && i.endMs > now.endMs && i.startMs >= now.startMs,
      ) ?? null)
    : null
})
const left = computed(() => (current.value ? Math.ceil((current.value.endMs - props.now) / MINUTE) : 0))
const until = computed(() => (next.value ? Math.ceil((next.value.startMs - props.now) / MINUTE) : 0))
const MORE_MS = 15 * MINUTE
/** While something is under way, what comes after it is said when it is near. */
const NEAR_MINUTES = 30
const FAR_MINUTES = 12 * 60
const isNextNear = computed(
  () => next.value !== null && until.value <= (current.value ? NEAR_MINUTES : FAR_MINUTES),
)
useNowTitle(current, next, () => props.zone)
const known = useShownFacts()
const edge = (item: ClothItem): string => edgeOf(known.dyes(item))
function open(event: Event, item: ClothItem): void {
  emit('open', item, (event.currentTarget as HTMLElement).getBoundingClientRect())
}
</script>

<template>
  <section v-if="current || isNextNear" class="strip" aria-label="Now and next">
    <div v-if="current" class="one">
      <span class="when">Now</span>
      <i class="edge" :style="{ background: edge(current.item) }" />
      <button type="button" class="plain title" @click="open($event, current.item)">
        {{ current.item.title }}
      </button>
      <span class="quiet" :title="`${durationWords(left)} left`"
        >until {{ clockWords(current.endMs, zone)
        }}<span class="visually-hidden">, {{ durationWords(left) }} left</span></span
      >
      <span v-for="t in current.item.batch.slice(0, 3)" :key="t.key" class="part">
        <TaskTick
          :done="t.done"
          :title="t.title"
          :disabled="!t.completable"
          @toggle="emit('tick', t.key, !t.done)"
        />{{ t.title }}
      </span>
      <template v-if="current.item.movable">
        <button
          type="button"
          class="plain act"
          :title="
            givesWay ? `It then lies over ${givesWay.item.title}, ${clockWords(givesWay.startMs, zone)}` : ''
          "
          @click="emit('extend', current.item)"
        >
          15 min more<template v-if="givesWay">, over {{ givesWay.item.title }}</template>
        </button>
        <button type="button" class="plain act" @click="emit('finish', current.item)">finish now</button>
        <button
          v-if="current.item.kind !== 'event'"
          type="button"
          class="plain act"
          title="Messages wait until it ends"
          @click="emit('focus', current.endMs)"
        >
          focus
        </button>
        <button
          v-if="current.item.kind !== 'event' && current.item.kind !== 'batch'"
          type="button"
          class="plain act"
          @click="emit('later', current.item)"
        >
          the rest later
        </button>
      </template>
    </div>
    <div v-if="next && isNextNear" class="one next">
      <span class="when">Next</span>
      <i class="edge" :style="{ background: edge(next.item) }" />
      <button type="button" class="plain title" @click="open($event, next.item)">
        {{ next.item.title }}
      </button>
      <span class="quiet">{{ clockWords(next.startMs, zone) }}, in {{ durationWords(until) }}</span>
    </div>
  </section>
</template>

<style scoped>
.strip {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 20px;
  margin-left: auto;
  color: var(--peat);
}
.one {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 2px 8px;
  min-width: 0;
}
.when {
  font-weight: 700;
  color: var(--amber);
}
.next .when {
  color: var(--husk);
}
.edge {
  width: 4px;
  height: 16px;
  border-radius: 2px;
  flex: none;
}
.title {
  font-weight: 700;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
  max-width: min(190px, 100%);
}
.title:hover {
  text-decoration: underline;
}
.part {
  display: inline-flex;
  align-items: center;
  gap: 5px;
}
.act {
  color: var(--amber);
  text-decoration: underline;
  white-space: nowrap;
}
.quiet {
  white-space: nowrap;
}
</style>
