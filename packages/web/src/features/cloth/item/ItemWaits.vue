<script setup lang="ts">
import { type ClothItem, durationWords } from '@loom/core/view'
import { useQuery } from '@pinia/colada'
import { refDebounced } from '@vueuse/core'
import { Button, Input } from 'ant-design-vue'
import { computed, ref } from 'vue'
import { answer, api } from '../../../api/client.ts'
import { say } from '../../../stores/messages.ts'
import { sayIfRefused } from '../../../stores/time.ts'
import { useWaitLines } from '../../../stores/waits.ts'
import { useAttempt } from '../../../ui/attempt.ts'
import SentenceChoice from '../../../ui/SentenceChoice.vue'

/** What a task waits for: it is planned only after all of it. */
const props = defineProps<{ item: ClothItem; mayChange: boolean }>()
const emit = defineEmits<{ go: [key: string] }>()
const { of, put } = useWaitLines()
const lines = computed(() => of(props.item.key))
const { attempt, reason, busy } = useAttempt()

const isAdding = ref(false)
const words = ref('')
const asked = refDebounced(words, 200)
const found = useQuery({
  key: () => ['cloth', 'search', 'waits', asked.value],
  query: () => answer(() => api.cloth.search.$get({ query: { q: asked.value } })),
  enabled: () => isAdding.value && asked.value.trim() !== '',
})
const MOST = 6
const candidates = computed(() => {
  const there = new Set([props.item.key, ...lines.value.map(l => l.key)])
  return (found.data.value?.items ?? [])
    .filter(i => (i.kind === 'task' || i.kind === 'tied') && !there.has(i.key) && !i.done)
    .slice(0, MOST)
})
const named = (): { key: string; gap: number }[] =>
  lines.value.flatMap(l => (l.key === null ? [] : [{ key: l.key, gap: l.gap }]))
async function change(next: { key: string; gap: number }[], text: string): Promise<void> {
  const { key } = props.item
  let before: { key: string; gap: number }[] = []
  if (!(await attempt(async () => void (before = await put(key, next))))) return
  say({ text, undo: () => void sayIfRefused(() => put(key, before)) })
}
async function add(other: Pick<ClothItem, 'key' | 'title'>): Promise<void> {
  isAdding.value = false
  words.value = ''
  await change([...named(), { key: other.key, gap: 0 }], `${props.item.title} waits for ${other.title}.`)
}
const remove = (key: string, title: string): Promise<void> =>
  change(
    named().filter(n => n.key !== key),
    `${props.item.title} no longer waits for ${title}.`,
  )
const GAPS = [0, 30, 60, 120, 240, 1440, 2880, 10_080]
const gapsWith = (gap: number): { value: number; label: string }[] =>
  [...new Set([...GAPS, gap])]
    .sort((x, y) => x - y)
    .map(value => ({
      value,
      label:
        value === 0
          ? 'at once'
          : value % 1440 === 0
            ? `${value / 1440} d after`
            : `${durationWords(value)} after`,
    }))
const setGap = (key: string, gap: number): Promise<void> =>
  change(
    named().map(n => (n.key === key ? { key, gap } : n)),
    `${props.item.title}: changed.`,
  )
</script>

<template>
  <section v-if="mayChange || lines.length > 0" class="waits" aria-label="Waits for">
    <header>
      <h3>Waits for</h3>
      <span v-if="lines.length === 0 && !isAdding" class="quiet">nothing</span>
      <span class="spacer" />
      <Button v-if="mayChange && !isAdding" size="small" @click="isAdding = true">Add</Button>
    </header>
    <ul v-if="lines.length > 0">
      <li v-for="l in lines" :key="l.key ?? l.title" :class="{ done: l.done }">
        <button v-if="l.key !== null" type="button" class="plain link" @click="emit('go', l.key)">
          {{ l.title }}
        </button>
        <span v-else class="quiet">{{ l.title }}</span>
        <span class="quiet">{{ l.done ? 'done' : '' }}</span>
        <SentenceChoice
          v-if="l.key !== null && mayChange"
          name="How long after"
          :options="gapsWith(l.gap)"
          :model-value="l.gap"
          @update:model-value="gap => l.key !== null && setGap(l.key, gap)"
        />
        <button
          v-if="l.key !== null && mayChange"
          type="button"
          class="plain link"
          @click="remove(l.key, l.title)"
        >
          Remove
        </button>
      </li>
    </ul>
    <div v-if="isAdding" class="add" @keydown.esc.stop="isAdding = false">
      <Input
        v-model:value="words"
        size="small"
        autofocus
        placeholder="Words of the task that comes first"
        aria-label="The task that comes first"
      />
      <Button size="small" @click="isAdding = false">Cancel</Button>
      <ul>
        <li v-for="c in candidates" :key="c.key">
          <button type="button" class="plain link" :disabled="busy" @click="add(c)">{{ c.title }}</button>
        </li>
        <li v-if="asked.trim() && found.data.value && candidates.length === 0" class="quiet">
          No open task has these words.
        </li>
      </ul>
    </div>
    <p v-if="reason" class="wrong" role="alert">{{ reason }}</p>
  </section>
</template>

<style scoped>
.waits {
  margin: 14px 0;
}
header,
.add {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 6px 8px;
}
.add :deep(input) {
  flex: 1;
}
.add ul {
  width: 100%;
}
.spacer {
  flex: 1;
}
ul {
  list-style: none;
  margin: 6px 0 0;
  padding: 0;
}
li {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 10px;
  align-items: baseline;
  padding: 2px 0;
}
li > :first-child {
  flex: 1;
  text-align: left;
}
.done > :first-child {
  text-decoration: line-through;
}
.link {
  color: var(--amber);
  text-decoration: underline;
}
.wrong {
  color: var(--clay);
}
</style>
