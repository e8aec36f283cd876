<script setup lang="ts">
import { whenWords } from '../../ui/telling.ts'
import { type When } from '@loom/core/view'
import { Checkbox } from 'ant-design-vue'

/** Entries of a file, each to be left out on its own. */
interface Entry {
  key: string
  kind: 'task' | 'event'
  title: string
  when: When | null
  repeats: boolean
  fields: string[]
}
const props = defineProps<{ entries: Entry[]; count: number; zone: string }>()
const except = defineModel<string[]>({ required: true })

const FIELDS: Record<string, string> = {
  summary: 'title',
  description: 'notes',
  start: 'plan',
  due: 'deadline',
  time: 'time',
  estimatedDuration: 'estimate',
  transparency: 'busy or free',
  class: 'who sees it',
  url: 'link',
}
const toggle = (key: string): void =>
  void (except.value = except.value.includes(key)
    ? except.value.filter(k => k !== key)
    : [...except.value, key])
const facts = (e: Entry): string =>
  [
    e.kind,
    e.when ? whenWords(e.when, props.zone) : 'no date',
    e.repeats ? 'repeats' : '',
    e.fields.length > 0 ? `changes: ${e.fields.map(f => FIELDS[f] ?? f).join(', ')}` : '',
  ]
    .filter(Boolean)
    .join(' · ')
</script>

<template>
  <ul>
    <li v-for="e in entries" :key="e.key">
      <Checkbox :checked="!except.includes(e.key)" @change="toggle(e.key)">{{ e.title }}</Checkbox>
      <span class="quiet">{{ facts(e) }}</span>
    </li>
    <li v-if="count > entries.length" class="quiet">and {{ count - entries.length }} more, which come too</li>
  </ul>
</template>

<style scoped>
ul {
  list-style: none;
  margin: 4px 0 10px;
  padding: 0 0 0 24px;
}
li {
  display: flex;
  justify-content: space-between;
  gap: 14px;
  padding: 1px 0;
}
.quiet {
  font-size: 13px;
  text-align: right;
}
</style>
