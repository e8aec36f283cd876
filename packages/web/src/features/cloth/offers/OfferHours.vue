<script setup lang="ts">
import { PhPlus, PhX } from '@phosphor-icons/vue'
import { minuteOf } from '../../../ui/typed-hours.ts'
import { minuteWords } from '../../../ui/telling.ts'
import SentenceChoice from '../../../ui/SentenceChoice.vue'

/** Hours of every week, on which weekdays. */
interface Hours {
  weekdays: number[]
  start: number
  end: number
}
const hours = defineModel<Hours[]>({ required: true })
const weeks = defineModel<number>('weeks', { required: true })
const WEEKDAYS = ['Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat', 'Sun']
const WEEKS = [1, 2, 4, 8, 26].map(value => ({ value, label: value === 1 ? 'one week' : `${value} weeks` }))
const QUARTER = 15

function toggle(of: Hours, day: number): void {
  const on = of.weekdays.includes(day)
  if (on && of.weekdays.length === 1) return
  of.weekdays = on ? of.weekdays.filter(d => d !== day) : [...of.weekdays, day].sort((x, y) => x - y)
}
/** What is no hour leaves it as it is, and shows so; to a quarter of an hour. */
function set(of: Hours, which: 'start' | 'end', event: Event): void {
  const field = event.target as HTMLInputElement
  const typed = minuteOf(field.value)
  const minute = typed === null ? null : Math.round(typed / QUARTER) * QUARTER
  const next = { ...of, [which]: which === 'end' && minute === 0 ? 1440 : (minute ?? of[which]) }
  if (next.start < next.end) Object.assign(of, next)
  field.value = minuteWords(of[which] % 1440)
}
const add = (): void => void hours.value.push({ weekdays: [1], start: 600, end: 720 })
</script>

<template>
  <div v-for="(h, n) in hours" :key="n" class="hours" role="group" :aria-label="`Hours ${n + 1}`">
    <span class="days">
      <button
        v-for="(name, i) in WEEKDAYS"
        :key="name"
        type="button"
        class="push small day"
        :class="{ on: h.weekdays.includes(i + 1) }"
        :aria-pressed="h.weekdays.includes(i + 1)"
        @click="toggle(h, i + 1)"
      >
        {{ name }}
      </button>
    </span>
    <span>
      from
      <input
        class="native hour"
        :value="minuteWords(h.start)"
        aria-label="From"
        @change="e => set(h, 'start', e)"
      />
      to
      <input
        class="native hour"
        :value="minuteWords(h.end % 1440)"
        aria-label="To"
        @change="e => set(h, 'end', e)"
      />
      <button
        v-if="hours.length > 1"
        type="button"
        class="plain"
        :aria-label="`Without hours ${n + 1}`"
        @click="hours.splice(n, 1)"
      >
        <PhX :size="13" />
      </button>
    </span>
  </div>
  <p class="ahead">
    for <SentenceChoice v-model="weeks" name="How far ahead" :options="WEEKS" /> ahead
    <button v-if="hours.length < 20" type="button" class="push small with-icon" @click="add">
      <PhPlus :size="13" /> Other hours
    </button>
  </p>
</template>

<style scoped>
.hours {
  display: grid;
  gap: 6px;
}
.days {
  display: flex;
  flex-wrap: wrap;
  gap: 4px;
}
.day {
  padding-inline: 7px;
}
.day.on {
  background: var(--amber-wash);
  border-color: var(--amber);
  font-weight: 700;
}
.hour {
  width: 64px;
}
.ahead {
  display: flex;
  align-items: center;
  gap: 8px;
  margin: 0;
}
</style>
