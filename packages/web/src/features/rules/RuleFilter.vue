<script setup lang="ts">
import { type Clause, type Filter } from '@loom/core/view'
import { Button, Input } from 'ant-design-vue'
import { computed, ref } from 'vue'
import ChooseOne from '../../ui/ChooseOne.vue'
import FilterClauses from '../../ui/FilterClauses.vue'
import FoldOut from '../../ui/FoldOut.vue'

/** Who takes part on one side: a handful of clauses that must all hold, picked together in words. */
const props = defineProps<{ name: string; itemKind: 'task' | 'event' }>()
const filter = defineModel<Filter>({ required: true })

type Kind = 'status' | 'assignee' | 'category' | 'with' | 'without' | 'priority'
const KINDS = computed(() =>
  (
    [
      { value: 'status', label: 'that are open', task: true },
      { value: 'assignee', label: 'that are mine', task: true },
      { value: 'priority', label: 'with a priority of at least…', task: true },
      { value: 'category', label: 'marked…', task: false },
      { value: 'with', label: 'with the words…', task: false },
      { value: 'without', label: 'without the words…', task: false },
    ] as { value: Kind; label: string; task: boolean }[]
  ).filter(k => props.itemKind === 'task' || !k.task),
)
const kind = ref<Kind | null>(null)
const text = ref('')
const needsText = computed(() => kind.value !== null && kind.value !== 'status' && kind.value !== 'assignee')

function clause(): Clause | null {
  const words = text.value
    .split(',')
    .map(w => w.trim())
    .filter(Boolean)
  switch (kind.value) {
    case 'status':
      return { field: 'status', is: ['needs-action', 'in-process'] }
    case 'assignee':
      return { field: 'assignee', is: ['me'] }
    case 'priority': {
      const atLeast = Number(text.value)
      return Number.isInteger(atLeast) && atLeast >= 1 && atLeast <= 9 ? { field: 'priority', atLeast } : null
    }
    case 'category':
      return words.length > 0 ? { field: 'category', is: words } : null
    case 'with':
    case 'without':
      return words.length > 0 ? { field: 'words', of: words, without: kind.value === 'without' } : null
    case null:
      return null
  }
}
function add(close: () => void): void {
  const next = clause()
  if (!next) return
  filter.value = [...filter.value, next]
  kind.value = null
  text.value = ''
  close()
}
</script>

<template>
  <FilterClauses v-model="filter">
    <FoldOut v-slot="{ close }" :name="name" :label="filter.length > 0 ? 'and…' : 'all of them'">
      <ChooseOne v-model="kind" name="Only those" :options="KINDS" none="only those…" />
      <Input
        v-if="needsText"
        v-model:value="text"
        size="small"
        :aria-label="kind === 'priority' ? 'Priority, 1 to 9' : 'Words, with commas between'"
        :placeholder="kind === 'priority' ? '1 to 9' : 'words, with commas between'"
        @press-enter="add(close)"
      />
      <Button size="small" :disabled="clause() === null" @click="add(close)">Add filter</Button>
    </FoldOut>
  </FilterClauses>
</template>
