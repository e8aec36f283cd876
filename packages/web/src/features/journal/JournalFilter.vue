<script setup lang="ts">
import { FIELD_WORDS } from '@loom/core/view'
import { useQuery } from '@pinia/colada'
import { Button, Input } from 'ant-design-vue'
import { computed, nextTick, onBeforeUnmount, ref, watch } from 'vue'
import { answer, api } from '../../api/client.ts'
import ChooseOne from '../../ui/ChooseOne.vue'
import { type Key, useWanted } from './use-wanted.ts'

/** Looks through the journal: by words, and by whose, where, what and how it ended. */
const { wanted, isAll, set, all } = useWanted()

const choices = useQuery({
  key: ['journal', 'choices'],
  query: () => answer(() => api.journal.choices.$get()),
})
const named = (list: { id: string; name: string }[] | undefined) =>
  (list ?? []).map(x => ({ value: x.id, label: x.name }))
const OUTCOMES = [
  { value: 'done', label: 'written' },
  { value: 'refused', label: 'refused' },
  { value: 'overridden', label: 'overridden' },
  { value: 'unknown', label: 'not known' },
]
const FIELDS = Object.entries(FIELD_WORDS).map(([value, label]) => ({ value, label }))
const parts = computed(
  (): { key: Key; name: string; none: string; options: { value: string; label: string }[] }[] => [
    { key: 'rule', name: 'Rule', none: 'by any rule', options: named(choices.data.value?.rules) },
    { key: 'who', name: 'Person', none: 'by anybody', options: named(choices.data.value?.people) },
    { key: 'service', name: 'Service', none: 'at any service', options: named(choices.data.value?.services) },
    { key: 'field', name: 'Field', none: 'any field', options: FIELDS },
    { key: 'outcome', name: 'Outcome', none: 'any outcome', options: OUTCOMES },
  ],
)

const SETTLE_MS = 250
const typed = ref(wanted.value.words ?? '')
let timer = 0
watch(typed, words => {
  clearTimeout(timer)
  timer = window.setTimeout(() => set('words', words.trim() || null), SETTLE_MS)
})
watch(
  () => wanted.value.words ?? '',
  words => {
    if (words !== typed.value.trim()) typed.value = words
  },
)
// Clearing the filter also drops pending text input.
watch(
  () => Object.values(wanted.value).some(Boolean),
  any => {
    if (any) return
    typed.value = ''
    void nextTick(() => clearTimeout(timer))
  },
)
onBeforeUnmount(() => clearTimeout(timer))
</script>

<template>
  <div class="filter" role="search" aria-label="Look through the journal">
    <Input v-model:value="typed" placeholder="Search in titles" aria-label="Search in titles" class="words" />
    <ChooseOne
      v-for="p in parts"
      :key="p.key"
      :model-value="wanted[p.key] ?? null"
      :name="p.name"
      :none="p.none"
      :options="p.options"
      @update:model-value="v => set(p.key, v)"
    />
    <span v-if="wanted.item" class="item">the history of one item, on both sides</span>
    <Button v-if="!isAll" @click="all">All entries</Button>
  </div>
</template>

<style scoped>
.filter {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 8px;
  margin-bottom: 10px;
}
.filter > :deep(.one) {
  max-width: 210px;
}
.words {
  width: 220px;
}
.item {
  padding: 3px 9px;
  border-radius: 3px;
  background: var(--amber-wash);
}
</style>
