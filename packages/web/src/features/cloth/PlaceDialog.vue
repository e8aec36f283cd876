<script setup lang="ts">
import { type ClothItem, dayAt, type Edit, lengthOf, zoned, zonedAt } from '@loom/core/view'
import { Checkbox, Form, FormItem, Input, InputNumber, Modal } from 'ant-design-vue'
import { computed, reactive } from 'vue'
import { clockOf } from './clock.ts'

const props = defineProps<{ item: ClothItem; zone: string; defaultMinutes: number; day: string }>()
const emit = defineEmits<{ edit: [edit: Edit]; close: [] }>()

const { place } = props.item
const start = place.kind === 'timed' ? zonedAt(place.startMs, props.zone) : null
const given = reactive({
  day:
    place.kind === 'timed' ? dayAt(place.startMs, props.zone) : place.kind === 'day' ? place.date : props.day,
  time: start?.kind === 'zoned' ? start.local.slice(11, 16) : '10:00',
  minutes: lengthOf(props.item, props.defaultMinutes),
  noHour: place.kind === 'day',
})
const time = computed(() => clockOf(given.time))
const complete = computed(
  () =>
    given.day !== '' &&
    (given.noHour || (time.value !== null && Number.isInteger(given.minutes) && given.minutes >= 5)),
)

function done(): void {
  if (!complete.value) return
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
    :title="`Place “${item.title}”`"
    :ok-text="given.noHour ? 'Place on the day' : 'Place'"
    :ok-button-props="{ disabled: !complete }"
    :width="420"
    @ok="done"
    @cancel="emit('close')"
  >
    <Form layout="vertical" @submit.prevent="done" @keydown.enter.prevent="done">
      <div class="fields">
        <FormItem label="Day" html-for="place-day">
          <input id="place-day" v-model="given.day" type="date" class="native" />
        </FormItem>
        <FormItem label="Starts" html-for="place-time">
          <Input
            id="place-time"
            v-model:value="given.time"
            :disabled="given.noHour"
            :status="given.noHour || time ? '' : 'error'"
            placeholder="10:00"
            :maxlength="5"
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
      <Checkbox v-if="item.kind !== 'event'" v-model:checked="given.noHour">That day, no hour yet</Checkbox>
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
.native {
  font: inherit;
  color: inherit;
  background: var(--cloth);
  border: 1px solid var(--warp-strong);
  border-radius: 3px;
  height: 32px;
  padding: 0 8px;
  width: 100%;
  box-sizing: border-box;
}
.native:disabled {
  opacity: 0.5;
}
</style>
