<script setup lang="ts">
import { PhX } from '@phosphor-icons/vue'
import { DatePicker } from 'ant-design-vue'
import dayjs, { type Dayjs } from 'dayjs'
import customParseFormat from 'dayjs/plugin/customParseFormat'
import localeData from 'dayjs/plugin/localeData'
import updateLocale from 'dayjs/plugin/updateLocale'
import weekday from 'dayjs/plugin/weekday'
import { useId, watchEffect } from 'vue'
import { weekStart } from '../stores/week-start.ts'

/** A day, picked or typed. `YYYY-MM-DD`; '' for none. */
const props = defineProps<{
  id?: string
  name?: string
  /** The first day that can be chosen. */
  min?: string
  disabled?: boolean
  small?: boolean
}>()
const model = defineModel<string>({ required: true })
const inputId = props.id ?? useId()

dayjs.extend(customParseFormat)
dayjs.extend(localeData)
dayjs.extend(weekday)
dayjs.extend(updateLocale)
watchEffect(() => dayjs.updateLocale('en', { weekStart: weekStart.value % 7 }))

/** As days are told everywhere here, with the year; and all the ways in which people type them, the day first. */
const FORMATS = [
  'ddd D MMM YYYY',
  'YYYY-MM-DD',
  'D MMM YYYY',
  'D MMMM YYYY',
  'D.M.YYYY',
  'D/M/YYYY',
  'D-M-YYYY',
]
/** Typed text not applied yet: the picker applies it by Enter only, we also when the field is left. */
let typed = ''
function take(): void {
  const day = typed === '' ? null : dayjs(typed, FORMATS, true)
  typed = ''
  if (day?.isValid() && !tooEarly(day)) say(day.format('YYYY-MM-DD'))
}
/** An unchanged value is not emitted again. */
function say(day: string): void {
  if (day !== model.value) model.value = day
}
function type(event: Event): void {
  typed = (event.target as HTMLInputElement).value
}
/** On to the next field, not into the days. */
function goOn(event: KeyboardEvent): void {
  event.stopPropagation()
  take()
}
function choose(value: unknown): void {
  typed = ''
  say(typeof value === 'string' ? value : '')
}
const tooEarly = (day: Dayjs): boolean => props.min !== undefined && day.format('YYYY-MM-DD') < props.min
</script>

<template>
  <!-- Enter takes the day, and does not send the form it is in. -->
  <span class="day" @keydown.enter.stop @keydown.tab.capture="goOn" @input.capture="type" @focusout="take">
    <label v-if="name" class="visually-hidden" :for="inputId">{{ name }}</label>
    <DatePicker
      :id="inputId"
      :value="model || undefined"
      value-format="YYYY-MM-DD"
      :format="FORMATS"
      :disabled="disabled"
      :disabled-date="tooEarly"
      :size="small ? 'small' : 'middle'"
      placeholder="a day"
      class="day-picker"
      @update:value="choose"
    >
      <template #clearIcon><PhX :size="12" /><span class="visually-hidden">No day</span></template>
    </DatePicker>
  </span>
</template>

<style scoped>
.day-picker {
  width: 168px;
}
</style>
