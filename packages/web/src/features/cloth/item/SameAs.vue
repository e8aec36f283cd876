<script setup lang="ts">
import { type ClothItem, dayAt, dayWords } from '@loom/core/view'
import { useQuery } from '@pinia/colada'
import { refDebounced } from '@vueuse/core'
import { computed, nextTick, ref, useTemplateRef } from 'vue'
import { answer, api } from '../../../api/client.ts'
import { say } from '../../../stores/messages.ts'
import { useAttempt } from '../../../ui/attempt.ts'

/** Says of an item that it is the same work as one of the other side of a rule: the rule keeps both in step then. */
const props = defineProps<{ item: ClothItem; zone: string }>()

const PAUSE_MS = 150
const open = ref(false)
const words = ref('')
const asked = refDebounced(words, PAUSE_MS)
const field = useTemplateRef<HTMLInputElement>('field')
const query = useQuery({
  key: () => ['cloth', 'candidates', props.item.key, asked.value],
  query: () => answer(() => api.ties.candidates.$get({ query: { item: props.item.key, q: asked.value } })),
  placeholderData: (previous: Found | undefined) => previous,
})
type Found = { candidates: { rule: string; items: Candidate[] }[] }
interface Candidate {
  id: string
  title: string
  place: string
  startMs: number | null
}
const rules = computed(() => query.data.value?.candidates ?? [])
const found = computed(() => rules.value.flatMap(c => c.items.map(i => ({ ...i, rule: c.rule }))))
const { attempt, reason } = useAttempt()

async function show(): Promise<void> {
  open.value = true
  await nextTick()
  field.value?.focus()
}
const put = (pick: { id: string; rule: string }, same: boolean): Promise<boolean> =>
  attempt(() =>
    answer(() =>
      api.ties['by-hand'].$put({ json: { rule: pick.rule, item: props.item.key, other: pick.id, same } }),
    ),
  )
async function tie(pick: { id: string; rule: string; title: string }): Promise<void> {
  const { title } = props.item
  if (!(await put(pick, true))) return
  open.value = false
  say({
    text: `“${title}” and “${pick.title}” are one now, and kept in step.`,
    undo: () => void takeBack(pick),
  })
}
/** The drawer may be closed by then, so a refusal is a message too. */
async function takeBack(pick: { id: string; rule: string }): Promise<void> {
  if (!(await put(pick, false))) say({ text: reason.value, tone: 'wrong' })
}
</script>

<template>
  <template v-if="open || rules.length > 0">
    <dt>Same as</dt>
    <dd>
      <button v-if="!open" type="button" class="plain link" @click="show">pick its counterpart…</button>
      <div v-else class="counterpart" @keydown.esc.stop="open = false">
        <input
          ref="field"
          v-model="words"
          class="native"
          type="search"
          aria-label="Words of its counterpart"
          placeholder="words of its title"
        />
        <ul v-if="found.length > 0">
          <li v-for="c in found" :key="`${c.rule} ${c.id}`">
            <button type="button" class="plain one" @click="tie(c)">
              {{ c.title || 'Untitled' }}
              <span class="quiet"
                >{{ c.place }}{{ c.startMs === null ? '' : `, ${dayWords(dayAt(c.startMs, zone))}` }}</span
              >
            </button>
          </li>
        </ul>
        <p v-else class="quiet">Nothing untied over there is called so.</p>
      </div>
      <p v-if="reason" class="wrong" role="alert">{{ reason }}</p>
    </dd>
  </template>
</template>

<style scoped>
dt {
  color: var(--husk);
}
dd {
  margin: 0;
  min-width: 0;
}
.link {
  color: var(--amber);
  text-decoration: underline;
}
ul {
  list-style: none;
  margin: 4px 0 0;
  padding: 0;
  max-height: 190px;
  overflow: auto;
  border: 1px solid var(--warp);
  border-radius: 3px;
}
.one {
  display: block;
  width: 100%;
  padding: 4px 8px;
  text-align: left;
}
.one:hover,
.one:focus-visible {
  background: var(--amber-wash);
}
p {
  margin: 4px 0 0;
}
.wrong {
  color: var(--clay);
}
</style>
