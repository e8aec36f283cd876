<script setup lang="ts">
import { type Clause, type Filter, type TaskStatus } from '@loom/core/view'
import { computed, ref } from 'vue'
import PlainChoice from '../../ui/PlainChoice.vue'
import ChooseSome from '../../ui/ChooseSome.vue'
import FilterClauses from '../../ui/FilterClauses.vue'
import FoldOut from '../../ui/FoldOut.vue'
import { STATUS_CHOICES } from '../../ui/status-choices.ts'

/** What a view shows only: clauses picked one by one, which read as a sentence. */
const props = defineProps<{
  lists: readonly { id: string; name: string }[]
  people: readonly { id: string; name: string }[]
  categories: readonly string[]
}>()
const filter = defineModel<Filter>({ required: true })

const KINDS = [
  { value: 'status', label: 'that are…' },
  { value: 'member', label: 'of somebody' },
  { value: 'list', label: 'in a list or calendar' },
  { value: 'category', label: 'marked…' },
  { value: 'due', label: 'due…' },
  { value: 'priority', label: 'with a priority of at least…' },
  { value: 'with', label: 'with the words…' },
  { value: 'without', label: 'without the words…' },
] as const
type Kind = (typeof KINDS)[number]['value']
const DUE = [
  { value: -1, label: 'overdue' },
  { value: 0, label: 'today' },
  { value: 7, label: 'within 7 days' },
  { value: 30, label: 'within 30 days' },
  { value: 9999, label: 'never' },
]
const PRIORITIES = [
  { value: 3, label: 'high' },
  { value: 6, label: 'medium' },
  { value: 9, label: 'low' },
]
const kind = ref<Kind | null>(null)
const picked = ref<string[]>([])
const number = ref<number | null>(null)
const text = ref('')

const nameOf = (id: string): string =>
  props.people.find(p => p.id === id)?.name ?? props.lists.find(l => l.id === id)?.name ?? id
const options = computed((): { value: string; label: string }[] => {
  switch (kind.value) {
    case 'status':
      return STATUS_CHOICES
    case 'member':
      return props.people.map(p => ({ value: p.id, label: p.name }))
    case 'list':
      return props.lists.map(l => ({ value: l.id, label: l.name }))
    case 'category':
      return props.categories.map(c => ({ value: c, label: c }))
    default:
      return []
  }
})
const clause = computed((): Clause | null => {
  const words = text.value
    .split(',')
    .map(w => w.trim())
    .filter(Boolean)
  const some = picked.value
  switch (kind.value) {
    case 'status':
      return some.length > 0 ? { field: 'status', is: some as TaskStatus[] } : null
    case 'member':
    case 'list':
    case 'category':
      return some.length > 0 ? { field: kind.value, is: some } : null
    case 'due':
      return number.value === null
        ? null
        : { field: 'due', within: number.value === 9999 ? null : number.value }
    case 'priority':
      return number.value === null ? null : { field: 'priority', atLeast: number.value }
    case 'with':
    case 'without':
      return words.length > 0 ? { field: 'words', of: words, without: kind.value === 'without' } : null
    default:
      return null
  }
})
function choose(next: Kind | null): void {
  kind.value = next
  picked.value = []
  number.value = null
  text.value = ''
}
function add(close: () => void): void {
  if (!clause.value) return
  filter.value = [...filter.value, clause.value]
  choose(null)
  close()
}
</script>

<template>
  <FilterClauses v-model="filter" :name-of="nameOf">
    <FoldOut v-slot="{ close }" name="Filter" :label="filter.length > 0 ? 'and only…' : 'everything'">
      <PlainChoice
        :model-value="kind"
        name="Only those"
        :options="[...KINDS]"
        none="only those…"
        @update:model-value="choose"
      />
      <ChooseSome
        v-if="options.length > 0"
        v-model="picked"
        name="Which"
        :label="picked.length === 0 ? 'choose…' : `${picked.length} chosen`"
        :options="options"
      />
      <PlainChoice v-if="kind === 'due'" v-model="number" name="Due" :options="DUE" none="choose…" />
      <PlainChoice
        v-if="kind === 'priority'"
        v-model="number"
        name="Priority"
        :options="PRIORITIES"
        none="choose…"
      />
      <input
        v-if="kind === 'with' || kind === 'without'"
        v-model="text"
        class="native"
        aria-label="Words, with commas between"
        placeholder="words, with commas between"
        @keydown.enter="add(close)"
      />
      <button type="button" class="push small" :disabled="!clause" @click="add(close)">Add filter</button>
    </FoldOut>
  </FilterClauses>
</template>
