<script setup lang="ts">
import type { Filter, TaskStatus } from '@loom/core/view'
import { Button, Modal, Radio, RadioGroup } from 'ant-design-vue'
import { computed, ref } from 'vue'
import ChooseSome from '../../ui/ChooseSome.vue'
import type { Connection } from '../../stores/connections.ts'
import ChooseDay from '../../ui/ChooseDay.vue'
import { STATUS_CHOICES } from '../../ui/status-choices.ts'

/** A selection of what is here, as a file in an open format. */
const props = defineProps<{ connections: Connection[] }>()
const emit = defineEmits<{ close: [] }>()

const FORMATS = [
  {
    value: 'ics',
    label: 'Calendar file (.ics)',
    about: 'Everything, as it is at its service; for calendar programs.',
  },
  {
    value: 'jscalendar',
    label: 'JSCalendar (RFC 8984)',
    about: 'For programs; series with all their exceptions.',
  },
  { value: 'csv', label: 'Table (.csv)', about: 'For spreadsheets; of a series, only its first date.' },
] as const
const format = ref<'ics' | 'jscalendar' | 'csv'>('ics')
const chosen = ref<string[]>([])
const statuses = ref<TaskStatus[]>([])
const from = ref('')
const to = ref('')

const options = computed(() =>
  props.connections.flatMap(c =>
    c.collections
      .filter(k => k.takesPart)
      .map(k => ({ value: k.id, label: `${c.name} · ${k.name}`, hint: String(k.items) })),
  ),
)
const label = computed(() => {
  const [first] = options.value.filter(o => chosen.value.includes(o.value))
  if (!first) return 'all lists and calendars'
  return chosen.value.length === 1 ? first.label : `${first.label} and ${chosen.value.length - 1} more`
})
const statusWords = computed(() =>
  statuses.value.length === 0
    ? 'whatever their status'
    : `that are ${STATUS_CHOICES.filter(s => statuses.value.includes(s.value))
        .map(s => s.label)
        .join(' or ')}`,
)
const href = computed(() => {
  const filter: Filter = statuses.value.length > 0 ? [{ field: 'status', is: statuses.value }] : []
  const query = new URLSearchParams({ format: format.value, filter: JSON.stringify(filter) })
  if (chosen.value.length > 0) query.set('collections', chosen.value.join(','))
  if (from.value) query.set('from', from.value)
  if (to.value) query.set('to', to.value)
  return `/api/files/export?${query.toString()}`
})
</script>

<template>
  <Modal open title="Export a file" :footer="null" :width="560" @cancel="emit('close')">
    <RadioGroup v-model:value="format" name="format" class="formats">
      <Radio v-for="f in FORMATS" :key="f.value" :value="f.value">
        {{ f.label }} <span class="quiet">{{ f.about }}</span>
      </Radio>
    </RadioGroup>
    <p class="sentence">
      Of
      <ChooseSome
        v-model="chosen"
        name="Which lists and calendars"
        :label="label"
        :options="options"
        none="All of them"
      />&NoBreak;, tasks
      <ChooseSome
        v-model="statuses"
        name="Status"
        :label="statusWords"
        :options="STATUS_CHOICES"
        none="Whatever their status"
      />&NoBreak;.
    </p>
    <div class="days">
      <span>From <ChooseDay v-model="from" name="From" /></span>
      <span>to <ChooseDay v-model="to" name="To" :min="from || undefined" /></span>
      <span class="quiet">Without days: everything, also what has no date.</span>
    </div>
    <div class="foot">
      <Button @click="emit('close')">Cancel</Button>
      <Button type="primary" :href="href" download @click="emit('close')">Export</Button>
    </div>
  </Modal>
</template>

<style scoped>
.formats {
  display: grid;
  gap: 6px;
}
.sentence {
  font-size: 15px;
  line-height: 2;
  margin: 12px 0;
}
.days {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 10px;
}
.days input {
  font: inherit;
  color: inherit;
  background: var(--cloth);
  border: 1px solid var(--warp-strong);
  border-radius: 3px;
  padding: 3px 8px;
}
.foot {
  display: flex;
  justify-content: flex-end;
  gap: 8px;
  margin-top: 16px;
}
</style>
