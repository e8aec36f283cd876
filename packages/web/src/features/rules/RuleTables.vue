<script setup lang="ts">
import { PhPlus, PhX } from '@phosphor-icons/vue'
import { clauseWords, type RuleSettings, TaskStatus } from '@loom/core/view'
import { Button } from 'ant-design-vue'
import { useAttempt } from '../../ui/attempt.ts'
import ChooseOne from '../../ui/ChooseOne.vue'
import { say } from '../../stores/messages.ts'
import { setMeaning } from './set-meaning.ts'

/** What each service's own statuses mean here, and which priority of one side is which of the other's. */
interface Side {
  connectionId: string
  /** The list, as its service calls it. */
  remoteId: string
  name: string
  itemKind: 'task' | 'event'
  statuses: { id: string; name: string; means: 'needs-action' | 'in-process' | 'completed' | 'cancelled' }[]
  priorities: { id: string; name: string; means: number }[]
}
const props = defineProps<{ sides: Side[]; hasPriority: boolean }>()
const settings = defineModel<RuleSettings>({ required: true })

const emit = defineEmits<{ meant: [] }>()
const MEANINGS = TaskStatus.options.map(value => ({
  value,
  label: clauseWords({ field: 'status', is: [value] }).replace('that are ', ''),
}))
const { busy, attempt, reason } = useAttempt()
async function mean(side: Side, word: Side['statuses'][number], means: TaskStatus): Promise<void> {
  const was = word.means
  const done = await attempt(() => setMeaning(side.connectionId, side.remoteId, word.id, means))
  if (!done) {
    say({ text: reason.value, tone: 'wrong' })
    return
  }
  emit('meant')
  say({
    text: `“${word.name}” in ${side.name} means ${MEANINGS.find(m => m.value === means)?.label ?? means} now, for everything that reads it.`,
    undo: () => void mean({ ...side }, { ...word, means }, was),
  })
}

const NUMBERS = Array.from({ length: 10 }, (_, value) => value)
function options(side: Side | undefined) {
  return NUMBERS.map(value => {
    const own = side?.priorities.find(p => p.means === value)?.name
    return { value, label: own ? `${own} (${value})` : value === 0 ? 'none (0)' : String(value) }
  })
}
function set(i: number, side: 'a' | 'b', value: number | null): void {
  settings.value.priorities = settings.value.priorities.map((p, k) =>
    k === i && value !== null ? { ...p, [side]: value } : p,
  )
}
function add(): void {
  const [a, b] = props.sides
  const used = new Set(settings.value.priorities.map(p => p.a))
  const next =
    a?.priorities.map(p => p.means).find(n => !used.has(n)) ?? NUMBERS.slice(1).find(n => !used.has(n)) ?? 1
  const near =
    b?.priorities.map(p => p.means).sort((x, y) => Math.abs(x - next) - Math.abs(y - next))[0] ?? next
  settings.value.priorities = [...settings.value.priorities, { a: next, b: near }]
}
</script>

<template>
  <template v-for="s in sides" :key="s.name">
    <template v-if="s.itemKind === 'task' && s.statuses.length > 0">
      <h2 class="over">
        Statuses and priorities of {{ s.name }}
        <RouterLink :to="`/connections/${s.connectionId}/settings`" class="change">All of them</RouterLink>
      </h2>
      <ul class="words">
        <li v-for="w in s.statuses" :key="w.id" class="sheet">
          {{ w.name }}
          <ChooseOne
            :model-value="w.means"
            :options="MEANINGS"
            :name="`What “${w.name}” in ${s.name} means`"
            :disabled="busy"
            @update:model-value="m => m && m !== w.means && mean(s, w, m)"
          />
        </li>
      </ul>
    </template>
  </template>
  <template v-if="hasPriority">
    <h2 class="over">Which priority is which</h2>
    <div class="sheet table">
      <p v-if="settings.priorities.length === 0" class="quiet">
        The same number on both sides, 1 the most pressing and 9 the least.
      </p>
      <div v-for="(p, i) in settings.priorities" :key="i" class="row">
        <ChooseOne
          :model-value="p.a"
          :options="options(sides[0])"
          :name="`Priority ${i + 1} of the first side`"
          @update:model-value="v => set(i, 'a', v)"
        />
        <span class="quiet">is</span>
        <ChooseOne
          :model-value="p.b"
          :options="options(sides[1])"
          :name="`Priority ${i + 1} of the second side`"
          @update:model-value="v => set(i, 'b', v)"
        />
        <button
          type="button"
          class="plain"
          :aria-label="`Remove line ${i + 1}`"
          @click="settings.priorities = settings.priorities.filter((_, k) => k !== i)"
        >
          <PhX :size="13" />
        </button>
      </div>
      <Button size="small" class="with-icon" @click="add"><PhPlus :size="13" /> One more line</Button>
    </div>
  </template>
</template>

<style scoped>
.over {
  margin: 16px 0 8px;
}
.change {
  font: 400 13px 'Atkinson Hyperlegible Next Variable';
}
.words {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(140px, 1fr));
  gap: 8px;
}
.words li {
  padding: 5px 9px;
}
.words :deep(.one) {
  display: flex;
}
.table {
  padding: 10px 14px;
  display: grid;
  gap: 6px;
  justify-items: start;
}
.table p {
  margin: 0;
}
.row {
  display: flex;
  align-items: center;
  gap: 8px;
}
</style>
