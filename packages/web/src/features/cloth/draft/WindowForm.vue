<script setup lang="ts">
import type { PlanWindow, WhichDays } from '@loom/core/planning'
import { dayWords } from '@loom/core/view'
import { PhX } from '@phosphor-icons/vue'
import { useQuery } from '@pinia/colada'
import { computed, ref } from 'vue'
import { answer, api } from '../../../api/client.ts'
import ChooseDay from '../../../ui/ChooseDay.vue'
import { minuteWords } from '../../../ui/telling.ts'
import { minuteOf } from '../../../ui/typed-hours.ts'
import SentenceChoice from '../../../ui/SentenceChoice.vue'
import ViewFilter from '../ViewFilter.vue'
import type { Scene } from '../data/use-scene.ts'
import { WEEKDAYS } from './planning-words.ts'

/** One work window: when it is, and which tasks it is for. */
const props = defineProps<{
  window: PlanWindow
  scene: Scene
  isNew: boolean
  busy: boolean
  /** The day on which it was picked; null where it was not. */
  day: string | null
}>()
const emit = defineEmits<{
  save: [window: PlanWindow, which: WhichDays]
  remove: [window: PlanWindow, which: WhichDays]
  close: []
}>()

const draft = ref<PlanWindow>(props.window)
const which = ref<WhichDays>(props.day === null ? 'all' : 'this day')
const WHICH = computed((): { value: WhichDays; label: string }[] => [
  { value: 'this day', label: `only ${dayWords(props.day ?? '1970-01-01')}` },
  { value: 'this day and later', label: 'this day and later ones' },
  { value: 'all', label: 'all of them' },
])
/** Of a single day its hours alone are other. */
const isOneDay = computed(() => which.value === 'this day')
const hours = props.window.exceptions[props.day ?? ''] ?? props.window
const from = ref(minuteWords(hours.start))
const to = ref(minuteWords(hours.end % 1440))
const pause = ref('')
const tried = ref(false)
const trouble = computed(() => {
  const { name, weekdays, everyWeeks, from: first, until } = draft.value
  if (!name.trim()) return 'Give it a name.'
  if (weekdays.length === 0) return 'Choose at least one weekday.'
  if (minuteOf(from.value) === null || minuteOf(to.value) === null) return 'A time of it cannot be read.'
  if (minuteOf(from.value) === minuteOf(to.value)) return 'It ends when it begins.'
  if (!Number.isInteger(everyWeeks) || everyWeeks < 1 || everyWeeks > 52) return 'Every 1 to 52 weeks.'
  if (!first) return 'Say from which day on.'
  if (until !== null && until < first) return 'Its last day is before its first.'
  return ''
})
function toggle(day: number): void {
  const { weekdays } = draft.value
  draft.value.weekdays = weekdays.includes(day) ? weekdays.filter(d => d !== day) : [...weekdays, day].sort()
}
const exceptions = computed(() => Object.entries(draft.value.exceptions).sort(([x], [y]) => (x < y ? -1 : 1)))
function addPause(): void {
  if (!pause.value) return
  draft.value.exceptions = { ...draft.value.exceptions, [pause.value]: null }
  pause.value = ''
}
function without(date: string): void {
  draft.value.exceptions = Object.fromEntries(exceptions.value.filter(([d]) => d !== date))
}
function save(): void {
  tried.value = true
  addPause()
  if (trouble.value) return
  const [start, end] = [minuteOf(from.value) ?? 0, minuteOf(to.value) ?? 0]
  emit('save', { ...draft.value, name: draft.value.name.trim(), start, end }, which.value)
}
const query = useQuery({ key: ['views'], query: () => answer(() => api.views.$get()) })
const views = computed(() => query.data.value?.views ?? [])
const choices = computed(() => [
  { value: '', label: 'what passes' },
  ...views.value.map(v => ({ value: v.id, label: `what “${v.name}” shows` })),
])
function follow(id: string): void {
  const view = views.value.find(v => v.id === id)
  draft.value = { ...draft.value, view: view?.id ?? null, filter: view?.body.filter ?? draft.value.filter }
}
const people = computed(() => props.scene.data.value?.people ?? [])
const categories = computed(() =>
  [...new Set((props.scene.data.value?.items ?? []).flatMap(i => i.categories))].sort().slice(0, 100),
)
</script>

<template>
  <form class="form" @submit.prevent="save">
    <p v-if="day !== null" class="sentence">
      Change
      <SentenceChoice v-model="which" name="Which days" :options="WHICH" />
    </p>
    <label v-if="!isOneDay">
      Name
      <input v-model="draft.name" class="native wide" maxlength="100" autocomplete="off" />
    </label>
    <div v-if="!isOneDay" class="days" role="group" aria-label="On which weekdays">
      <button
        v-for="(name, i) in WEEKDAYS"
        :key="name"
        type="button"
        class="push small"
        :class="{ on: draft.weekdays.includes(i + 1) }"
        :aria-pressed="draft.weekdays.includes(i + 1)"
        @click="toggle(i + 1)"
      >
        {{ name }}
      </button>
    </div>
    <p class="sentence">
      from <input v-model="from" class="native hour" aria-label="From" /> to
      <input v-model="to" class="native hour" aria-label="To" /><template v-if="!isOneDay"
        >, every
        <input
          v-model.number="draft.everyWeeks"
          class="native few"
          type="number"
          min="1"
          max="52"
          aria-label="Every so many weeks"
        />
        {{ draft.everyWeeks === 1 ? 'week' : 'weeks' }}</template
      >
    </p>
    <template v-if="!isOneDay">
      <p class="sentence">
        beginning <ChooseDay v-model="draft.from" name="First day" />, until
        <ChooseDay
          name="Last day"
          :model-value="draft.until ?? ''"
          :min="draft.from || undefined"
          @update:model-value="day => (draft.until = day || null)"
        />
      </p>
      <p class="sentence">
        for
        <SentenceChoice
          v-if="views.length > 0"
          name="Which tasks"
          :options="choices"
          :model-value="draft.view ?? ''"
          @update:model-value="follow"
        />
        <ViewFilter
          v-if="draft.view === null"
          v-model="draft.filter"
          :lists="scene.sources.value"
          :people="people"
          :categories="categories"
        />
      </p>
      <label class="check">
        <input v-model="draft.othersToo" type="checkbox" /> Other work may be drafted into it, too
      </label>
      <label class="check">
        <input v-model="draft.spills" type="checkbox" /> Its tasks may stand outside of it where it is full
      </label>
      <label class="check">
        <input v-model="draft.keepsUp" type="checkbox" />
        <span>
          Keep what is drafted here up by itself
          <span class="quiet hint"
            >What an event lands on, or what comes before takes longer, goes to the next best time. What you
            put somewhere yourself stays.</span
          >
        </span>
      </label>
      <label class="check"><input v-model="draft.onDaysOff" type="checkbox" /> Also on days off</label>
      <div class="pauses" role="group" aria-label="Not on these days">
        <span>Not on</span>
        <span v-for="[date, span] in exceptions" :key="date" class="pause">
          {{ dayWords(date) }}{{ span ? ` ${minuteWords(span.start)}–${minuteWords(span.end % 1440)}` : '' }}
          <button
            type="button"
            class="plain"
            :aria-label="`As usual on ${dayWords(date)}`"
            @click="without(date)"
          >
            <PhX :size="12" />
          </button>
        </span>
        <ChooseDay v-model="pause" name="A day without it" />
        <button type="button" class="push small" :disabled="!pause" @click="addPause">Skip</button>
      </div>
    </template>
    <p v-if="tried && trouble" class="wrong" role="alert">{{ trouble }}</p>
    <div class="acts">
      <button type="submit" class="push primary" :disabled="busy">Save</button>
      <button type="button" class="push" @click="emit('close')">Cancel</button>
      <span class="spacer" />
      <button v-if="!isNew" type="button" class="push" @click="emit('remove', window, which)">
        {{ isOneDay ? 'Not on this day' : 'Delete' }}
      </button>
    </div>
  </form>
</template>

<style scoped>
.form {
  display: grid;
  gap: 10px;
}
label:not(.check) {
  display: grid;
  gap: 3px;
}
.check {
  display: flex;
  gap: 8px;
  align-items: baseline;
}
.hint {
  display: block;
  font-size: 12.5px;
}
.wide {
  width: 100%;
  box-sizing: border-box;
}
.days {
  display: flex;
  gap: 4px;
}
.days .push {
  padding-inline: 7px;
}
.on {
  background: var(--amber-wash);
  border-color: var(--amber);
  font-weight: 700;
}
.sentence,
.pauses {
  margin: 0;
  display: flex;
  flex-wrap: wrap;
  gap: 4px 6px;
  align-items: center;
}
.hour {
  width: 64px;
}
.few {
  width: 52px;
}
.pause {
  background: var(--linen);
  padding: 1px 6px;
  border-radius: 3px;
  display: inline-flex;
  gap: 4px;
  align-items: center;
}
.acts {
  display: flex;
  gap: 8px;
}
.spacer {
  flex: 1;
}
.wrong {
  color: var(--clay);
  margin: 0;
}
</style>
