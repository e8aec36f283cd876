<script setup lang="ts">
import {
  addDays,
  type ClothItem,
  dateNames,
  dayWords,
  durationWords,
  type Edit,
  onDate,
  shortName,
  WAITING,
  type Waiting,
  type WaitingTask,
  type WeekDay,
} from '@loom/core/view'
import { computed } from 'vue'
import { edgeOf } from '../data/signs.ts'
import { useShownFacts } from '../data/shown-facts.ts'

/** What waits for the week, by why: each goes to a day by a digit, by its proposal, or by being dragged there. */
const props = defineProps<{
  waiting: readonly WaitingTask[]
  days: readonly WeekDay[]
  /** The Monday. */
  week: string
  chosen: readonly string[]
  zone: string
}>()
const emit = defineEmits<{
  place: [task: WaitingTask, edit: Edit]
  choose: [item: ClothItem]
  menu: [item: ClothItem, at: DOMRect]
}>()
const known = useShownFacts()
const TITLES: Record<Waiting, string> = {
  'left over': 'Left over',
  'put by': 'Put by until this week',
  'any day': 'Any day this week',
  due: 'Due in two weeks',
  intake: 'Intake',
  'no date': 'No date, by pressure',
}
const groups = computed(() =>
  WAITING.flatMap(why => {
    const tasks = props.waiting.filter(w => w.why === why)
    return tasks.length > 0 ? [{ why, title: TITLES[why], tasks }] : []
  }),
)
const name = (date: string): string => shortName(dateNames(date).weekday)
const factsOf = ({ item, minutes }: WaitingTask): string =>
  [
    item.estimate === null ? 'no estimate' : durationWords(minutes),
    item.due ? `${item.overdue ? 'was due' : 'due'} ${dayWords(item.due)}` : '',
    item.slips > 0 ? `slipped ${item.slips === 1 ? 'once' : `${item.slips} times`}` : '',
  ]
    .filter(Boolean)
    .join(' · ')
const isMovable = ({ item }: WaitingTask): boolean => item.movable && !item.onlyLook
const toDay = (task: WaitingTask, date: string): void =>
  emit('place', task, { do: 'place', start: onDate(date) })
const later = (task: WaitingTask): void =>
  emit('place', task, { do: 'any-day', week: addDays(props.week, 7) })
function beside(row: HTMLElement, by: 1 | -1): HTMLElement | undefined {
  const all = [...(row.closest('.all')?.querySelectorAll<HTMLElement>('[data-key]') ?? [])]
  return all[all.indexOf(row) + by]
}
/** Digits are weekdays, Monday first; 0 is the week after. */
function onKey(event: KeyboardEvent, task: WaitingTask): void {
  const step = event.key === 'ArrowDown' ? 1 : event.key === 'ArrowUp' ? -1 : null
  if (step !== null && event.target === event.currentTarget) {
    event.preventDefault()
    event.stopPropagation()
    beside(event.currentTarget as HTMLElement, step)?.focus()
    return
  }
  if (!/^\d$/.test(event.key) || event.ctrlKey || event.metaKey || event.altKey || !isMovable(task)) return
  const digit = Number(event.key)
  const date = props.days.find(d => d.date === addDays(props.week, digit - 1))?.date
  if (digit > 7 || (digit > 0 && !date)) return
  event.preventDefault()
  event.stopPropagation()
  const row = event.currentTarget as HTMLElement
  const next = beside(row, 1) ?? beside(row, -1)
  if (date) toDay(task, date)
  else later(task)
  next?.focus()
}
</script>

<template>
  <div class="all">
    <p v-if="waiting.length === 0" class="quiet">Nothing waits for this week.</p>
    <section v-for="g in groups" :key="g.why" :aria-label="g.title">
      <h3>
        {{ g.title }} <span class="quiet">{{ g.tasks.length }}</span>
      </h3>
      <div
        v-for="task in g.tasks"
        :key="task.item.key"
        class="row"
        :class="{ chosen: chosen.includes(task.item.key) }"
        :style="{ '--edge': edgeOf(known.dyes(task.item)) }"
        role="group"
        tabindex="0"
        :aria-label="`${task.item.title}, ${factsOf(task)}${task.proposal ? `, proposed for ${dayWords(task.proposal)}` : ''}`"
        :data-key="task.item.key"
        data-drag="line"
        @keydown="e => onKey(e, task)"
      >
        <input
          type="checkbox"
          tabindex="-1"
          :checked="chosen.includes(task.item.key)"
          :aria-label="`Select ${task.item.title}`"
          @change="emit('choose', task.item)"
        />
        <button
          type="button"
          class="plain title"
          tabindex="-1"
          @click="e => emit('menu', task.item, (e.currentTarget as HTMLElement).getBoundingClientRect())"
        >
          {{ task.item.title }}
          <span class="quiet facts" :class="{ late: task.item.overdue }">{{ factsOf(task) }}</span>
        </button>
        <span class="chips">
          <button
            v-if="task.proposal && isMovable(task)"
            type="button"
            class="chip proposed"
            :title="`Plan it for ${dayWords(task.proposal)}`"
            @click="toDay(task, task.proposal)"
          >
            {{ name(task.proposal) }}
          </button>
          <button
            v-if="isMovable(task)"
            type="button"
            class="chip"
            title="Any day of the week after (0)"
            @click="later(task)"
          >
            later
          </button>
        </span>
      </div>
    </section>
    <p class="quiet hint">1 to 7: onto that weekday; 0: the week after; or drag it onto the Cloth.</p>
  </div>
</template>

<style scoped>
h3 {
  display: flex;
  justify-content: space-between;
  padding: 5px 14px;
  background: var(--linen);
  font-size: 13.5px;
}
h3 .quiet {
  font-weight: 400;
}
.row {
  position: relative;
  display: grid;
  grid-template-columns: auto minmax(0, 1fr) auto;
  gap: 8px;
  align-items: start;
  padding: 6px 14px 6px 26px;
  border-top: 1px solid var(--warp);
  touch-action: none;
}
.row::before {
  content: '';
  position: absolute;
  inset: 7px auto 7px 13px;
  width: 5px;
  border-radius: 2px;
  background: var(--edge);
}
.row.chosen {
  background: var(--amber-wash);
}
input {
  margin: 4px 0 0;
}
.title {
  text-align: left;
  overflow-wrap: anywhere;
}
.facts {
  display: block;
  font-size: 12.5px;
}
.late {
  color: var(--clay);
}
.chips {
  display: flex;
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
.chip:hover {
  border-color: var(--amber);
}
.proposed {
  border: 1px dashed var(--amber);
  background: var(--amber-wash);
}
p {
  margin: 0;
  padding: 10px 14px;
}
.hint {
  font-size: 12.5px;
}
</style>
