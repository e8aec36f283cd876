<script setup lang="ts">
import { clockWords, minuteWords, whenWords } from '../../../ui/telling.ts'
import {
  type ClothItem,
  dayAt,
  type Edit,
  type Free,
  instantDayWords,
  lengthOf,
  type Making,
  zoned,
} from '@loom/core/view'
import { Checkbox, Form, FormItem, Input, InputNumber, Modal } from 'ant-design-vue'
import { computed, reactive } from 'vue'
import SentenceChoice from '../../../ui/SentenceChoice.vue'
import { namedTogether } from '../data/chosen.ts'
import { clockOf } from '../../../ui/typed-hours.ts'
import TogetherList from './TogetherList.vue'
import { blockMaking, type Kept } from '../data/further-time.ts'
import SeenByOthers from '../item/SeenByOthers.vue'
import type { Source } from '../data/signs.ts'
import ChooseDay from '../../../ui/ChooseDay.vue'

const props = defineProps<{
  item: ClothItem
  /** The item, and all that are placed after it. */
  together: readonly ClothItem[]
  /** Further time for a task that has a time already. */
  further: boolean
  zone: string
  defaultMinutes: number
  day: string
  /** The next spans in which there is room for it. */
  free: readonly Free[]
  /** As further time is kept when nothing else is said. */
  usual: Kept
  sources: readonly Source[]
}>()
const emit = defineEmits<{ edit: [edit: Edit]; make: [making: Making, said: string]; close: [] }>()

const { place } = props.item
/** Further time is proposed where there is room; the item's own time is taken by itself. */
const [proposed] = props.further ? props.free : []
const given = reactive({
  day: proposed
    ? dayAt(proposed.startMs, props.zone)
    : place.kind === 'timed'
      ? dayAt(place.startMs, props.zone)
      : place.kind === 'day'
        ? place.date
        : props.day,
  time: proposed
    ? clockWords(proposed.startMs, props.zone)
    : place.kind === 'timed'
      ? clockWords(place.startMs, props.zone)
      : minuteWords(600),
  minutes: lengthOf(props.item, props.defaultMinutes),
  noHour: place.kind === 'day' && !props.further,
  kept: { ...props.usual },
})
const calendars = computed(() => [
  { value: '', label: 'Amber Loom only' },
  ...props.sources
    .filter(s => s.itemKind === 'event' && s.writable && !s.own)
    .map(s => ({ value: s.id, label: `${s.service} · ${s.name}` })),
])
const time = computed(() => clockOf(given.time))
function take({ startMs }: Free): void {
  given.day = dayAt(startMs, props.zone)
  given.time = clockWords(startMs, props.zone)
  given.noHour = false
}
const isTaken = ({ startMs }: Free): boolean =>
  !given.noHour && given.day === dayAt(startMs, props.zone) && given.time === clockWords(startMs, props.zone)
const complete = computed(
  () =>
    given.day !== '' &&
    (given.noHour || (time.value !== null && Number.isInteger(given.minutes) && given.minutes >= 5)),
)

function done(): void {
  if (!complete.value) return
  if (props.further) {
    const start = zoned(`${given.day}T${time.value}:00`, props.zone)
    emit(
      'make',
      blockMaking(props.item.key, start, given.minutes, given.kept),
      `${props.item.title}: further time ${whenWords(start, props.zone)}.`,
    )
    return
  }
  if (given.noHour) emit('edit', { do: 'place', start: { kind: 'date', date: given.day } })
  else
    emit('edit', {
      do: 'place',
      start: zoned(`${given.day}T${time.value}:00`, props.zone),
      ...(given.minutes === lengthOf(props.item, props.defaultMinutes) ? {} : { minutes: given.minutes }),
    })
}
</script>

<template>
  <Modal
    open
    :title="further ? `Further time for “${item.title}”` : `Place ${namedTogether(together)}`"
    :ok-text="further ? 'Reserve it' : given.noHour ? 'Place on the day' : 'Place'"
    :ok-button-props="{ disabled: !complete }"
    :width="420"
    @ok="done"
    @cancel="emit('close')"
  >
    <template v-if="!further && together.length > 1">
      <TogetherList :items="together" />
      <p class="quiet">They are placed one after the other.</p>
    </template>
    <Form layout="vertical" @submit.prevent="done" @keydown.enter.prevent="done">
      <div class="fields">
        <FormItem label="Day" html-for="place-day">
          <ChooseDay id="place-day" v-model="given.day" />
        </FormItem>
        <FormItem label="Starts" html-for="place-time">
          <Input
            id="place-time"
            v-model:value="given.time"
            :disabled="given.noHour"
            :status="given.noHour || time ? '' : 'error'"
            :placeholder="minuteWords(600)"
            :maxlength="8"
          />
        </FormItem>
        <FormItem label="Minutes" html-for="place-minutes">
          <InputNumber
            id="place-minutes"
            v-model:value="given.minutes"
            :min="5"
            :max="1440"
            :step="15"
            :disabled="given.noHour"
          />
        </FormItem>
      </div>
      <p v-if="free.length > 0" class="free">
        Free:
        <button
          v-for="f in free"
          :key="f.startMs"
          type="button"
          class="push small"
          :aria-pressed="isTaken(f)"
          @click="take(f)"
        >
          {{ instantDayWords(f.startMs, zone) }} {{ clockWords(f.startMs, zone) }}
        </button>
      </p>
      <p v-if="further">
        Kept in
        <SentenceChoice
          :model-value="given.kept.into ?? ''"
          name="Kept in"
          :options="calendars"
          @update:model-value="v => (given.kept.into = v === '' ? null : v)"
        /><template v-if="given.kept.into">, <SeenByOthers v-model="given.kept" /></template>.
      </p>
      <Checkbox v-else-if="item.kind === 'task' || item.kind === 'tied'" v-model:checked="given.noHour"
        >That day, no time set</Checkbox
      >
      <p v-if="item.due" class="quiet">Its due date stays as it is.</p>
    </Form>
  </Modal>
</template>

<style scoped>
.fields {
  display: grid;
  grid-template-columns: 1.4fr 1fr 1fr;
  gap: 12px;
}
.free {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 8px;
  margin: 0 0 12px;
}
.free [aria-pressed='true'] {
  background: var(--amber-wash);
  border-color: var(--amber);
}
</style>
