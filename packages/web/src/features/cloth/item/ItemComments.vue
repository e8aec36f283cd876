<script setup lang="ts">
import { instantDayWords } from '@loom/core/view'
import { useQuery } from '@pinia/colada'
import { Button, Mentions } from 'ant-design-vue'
import { computed, ref } from 'vue'
import { answer, api, Refused } from '../../../api/client.ts'
import { say } from '../../../stores/messages.ts'
import { useSession } from '../../../stores/session.ts'
import { useAttempt } from '../../../ui/attempt.ts'
import { clockWords } from '../../../ui/telling.ts'
import { inPieces } from '../data/named-pieces.ts'

/** What members say about an item, kept here. Its service is told nothing of it. */
const props = defineProps<{ item: string; zone: string }>()
const session = useSession()
const param = computed(() => ({ key: props.item }))
const query = useQuery({
  key: () => ['journal', 'comments', props.item],
  query: async () => {
    try {
      return await answer(() => api.comments.on[':key'].$get({ param: param.value }))
    } catch (error) {
      // Whoever does not see all of it is not told what is said about it.
      if (error instanceof Refused) return null
      throw error
    }
  },
})
const told = computed(() => query.data.value)
const { busy, reason, attempt } = useAttempt()
const text = ref('')
const writing = ref<{ id: string; text: string } | null>(null)
const names = computed(() => (told.value?.mayName ?? []).map(p => ({ value: p.name, label: p.name })))
const maySay = computed(() => !session.onlyLooks)

const send = (words: string) =>
  answer(() => api.comments.on[':key'].$post({ param: param.value, json: { text: words } }))
async function add(): Promise<void> {
  const words = text.value.trim()
  if (!words || busy.value) return
  if (!(await attempt(() => send(words)))) return
  text.value = ''
  await query.refetch()
}
async function change(): Promise<void> {
  const now = writing.value
  if (!now || busy.value) return
  const json = { text: now.text.trim() }
  if (!json.text) return
  if (!(await attempt(() => answer(() => api.comments[':id'].$put({ param: { id: now.id }, json }))))) return
  writing.value = null
  await query.refetch()
}
async function remove(id: string, words: string, isMine: boolean): Promise<void> {
  if (!(await attempt(() => answer(() => api.comments[':id'].$delete({ param: { id } }))))) return
  // Only one's own can be said again under one's own name.
  const undo = isMine ? { undo: () => void attempt(() => send(words)).then(() => query.refetch()) } : {}
  say({ text: 'The comment is removed.', ...undo })
  await query.refetch()
}
function onKey(event: KeyboardEvent, done: () => Promise<void>): void {
  if (event.key === 'Enter' && (event.ctrlKey || event.metaKey)) void done()
}
</script>

<template>
  <section v-if="told" aria-label="Comments">
    <h3>Comments</h3>
    <ol v-if="told.comments.length > 0">
      <li v-for="c in told.comments" :key="c.id">
        <div class="by">
          <b>{{ c.who }}</b>
          <span class="quiet"
            >{{ instantDayWords(c.at, zone) }} {{ clockWords(c.at, zone)
            }}{{ c.changedAt ? ', changed since' : '' }}</span
          >
          <span v-if="maySay && writing?.id !== c.id" class="acts">
            <button v-if="c.isMine" type="button" class="plain" @click="writing = { id: c.id, text: c.text }">
              Change
            </button>
            <button v-if="c.mayRemove" type="button" class="plain" @click="remove(c.id, c.text, c.isMine)">
              Remove
            </button>
          </span>
        </div>
        <div v-if="writing?.id === c.id" @keydown="onKey($event, change)">
          <Mentions v-model:value="writing.text" :options="names" :rows="2" aria-label="Your comment" />
          <div class="send">
            <Button size="small" type="primary" :disabled="!writing.text.trim()" @click="change">Save</Button>
            <Button size="small" @click="writing = null">Leave it</Button>
          </div>
        </div>
        <p v-else>
          <template v-for="(piece, i) in inPieces(c.text, c.named)" :key="i"
            ><b v-if="piece.isName" class="name">{{ piece.text }}</b
            ><template v-else>{{ piece.text }}</template></template
          >
        </p>
      </li>
    </ol>
    <p v-if="reason" class="why" role="alert">{{ reason }}</p>
    <div v-if="maySay" @keydown="onKey($event, add)">
      <Mentions
        v-model:value="text"
        :options="names"
        :rows="text ? 3 : 1"
        placeholder="Say something; @ names a colleague"
        aria-label="Comment"
      />
      <div v-if="text.trim()" class="send">
        <Button size="small" type="primary" :loading="busy" @click="add">Add comment</Button>
        <span class="quiet">Ctrl Enter · for those who see all of it, kept here only</span>
      </div>
    </div>
  </section>
</template>

<style scoped>
h3 {
  margin: 16px 0 6px;
}
ol {
  margin: 0 0 8px;
  padding: 0;
  list-style: none;
}
li {
  padding: 6px 0;
  border-top: 1px solid var(--warp);
  overflow-wrap: anywhere;
}
li p {
  margin: 2px 0 0;
  white-space: pre-wrap;
}
.by {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 8px;
  align-items: baseline;
}
.acts {
  display: flex;
  gap: 10px;
  margin-left: auto;
}
.acts button {
  text-decoration: underline;
  font-size: 12.5px;
}
.name {
  background: var(--amber-wash);
}
.send {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 10px;
  align-items: center;
  margin-top: 6px;
  font-size: 12.5px;
}
</style>
