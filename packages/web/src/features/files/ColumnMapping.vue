<script setup lang="ts">
import { computed } from 'vue'
import ChooseOne from '../../ui/ChooseOne.vue'

/** Which column of a table is what; remembered for the next table with these headings. */
type Field =
  | 'title'
  | 'notes'
  | 'status'
  | 'start'
  | 'end'
  | 'due'
  | 'zone'
  | 'estimate'
  | 'priority'
  | 'categories'
  | 'location'
  | 'shown'
  | 'visibility'
  | 'parent'
  | 'link'
  | 'kind'
  | 'uid'
export interface Mapping {
  rows: 'task' | 'event'
  columns: Partial<Record<Field, string>>
  order: 'day-first' | 'month-first'
  zone: string
}
const props = defineProps<{ headings: string[]; sample: string[][]; remembered: boolean }>()
const mapping = defineModel<Mapping>({ required: true })
const emit = defineEmits<{ changed: [] }>()

const ROLES: { value: Field; label: string }[] = [
  { value: 'title', label: 'the title' },
  { value: 'notes', label: 'the notes' },
  { value: 'start', label: 'the plan or start' },
  { value: 'end', label: 'the end' },
  { value: 'due', label: 'the deadline' },
  { value: 'estimate', label: 'the estimate or length' },
  { value: 'status', label: 'the status' },
  { value: 'priority', label: 'the priority' },
  { value: 'categories', label: 'the categories' },
  { value: 'location', label: 'the location' },
  { value: 'zone', label: 'the time zone' },
  { value: 'shown', label: 'busy or free' },
  { value: 'visibility', label: 'who sees it' },
  { value: 'parent', label: 'what it is a part of' },
  { value: 'link', label: 'a link' },
  { value: 'kind', label: 'task or event' },
  { value: 'uid', label: 'the id' },
]
const ROWS = [
  { value: 'task' as const, label: 'a task' },
  { value: 'event' as const, label: 'an event' },
]
const ORDERS = [
  { value: 'day-first' as const, label: 'day, then month' },
  { value: 'month-first' as const, label: 'month, then day' },
]
const roleOf = (heading: string): Field | null =>
  ROLES.find(r => mapping.value.columns[r.value] === heading)?.value ?? null
const example = computed(() =>
  props.headings.map((_, i) => props.sample.map(r => r[i]).find(v => v?.trim()) ?? ''),
)

function change(part: Partial<Mapping>): void {
  mapping.value = { ...mapping.value, ...part }
  emit('changed')
}
function setRole(heading: string, role: Field | null): void {
  const columns = Object.fromEntries(
    Object.entries(mapping.value.columns).filter(([r, h]) => h !== heading && r !== role),
  ) as Mapping['columns']
  if (role) columns[role] = heading
  change({ columns })
}
</script>

<template>
  <section class="mapping" aria-label="Columns">
    <p>
      <template v-if="remembered">Columns as they were chosen last time. </template>
      Each row is
      <ChooseOne
        :model-value="mapping.rows"
        name="Each row is"
        :options="ROWS"
        @update:model-value="v => v && change({ rows: v })"
      />
      unless a column says so; dates like 3/4/2026 are
      <ChooseOne
        :model-value="mapping.order"
        name="Order in dates"
        :options="ORDERS"
        @update:model-value="v => v && change({ order: v })"
      />&NoBreak;; hours are those of {{ mapping.zone }}.
    </p>
    <ul>
      <li v-for="(h, i) in headings" :key="h">
        <b>{{ h }}</b>
        <span class="quiet example">{{ example[i] }}</span>
        <ChooseOne
          :model-value="roleOf(h)"
          :name="`Column ${h} is`"
          :options="ROLES"
          none="left out"
          @update:model-value="r => setRole(h, r)"
        />
      </li>
    </ul>
  </section>
</template>

<style scoped>
p {
  margin: 8px 0;
  line-height: 2.4;
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(min(100%, 360px), 1fr));
  gap: 4px 24px;
  max-height: 220px;
  overflow: auto;
}
li {
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 1fr) 170px;
  align-items: center;
  gap: 8px;
}
b,
.example {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
</style>
