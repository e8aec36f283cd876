<script setup lang="ts">
import { PhCopy, PhEnvelopeSimple, PhLinkSimple } from '@phosphor-icons/vue'
import { useQuery, useQueryCache } from '@pinia/colada'
import { Button, Modal } from 'ant-design-vue'
import { computed, ref } from 'vue'
import { answer, api } from '../../api/client.ts'
import { say } from '../../stores/messages.ts'
import { agoWords } from '../../stores/connections.ts'
import { tell } from './tell.ts'

/** A member's own ways in from outside: a secret mail address and a capture address. */
defineProps<{ now: number }>()
const cache = useQueryCache()
const query = useQuery({ key: ['connections', 'doors'], query: () => answer(() => api.doors.$get()) })
const inbox = useQuery({
  key: ['connections', 'doors', 'messages'],
  query: () => answer(() => api.doors.messages.$get()),
})

const KINDS = [
  {
    kind: 'mail' as const,
    icon: PhEnvelopeSimple,
    title: 'A mail address',
    about: 'A message forwarded to it becomes a task in your intake, and is kept with it.',
  },
  {
    kind: 'capture' as const,
    icon: PhLinkSimple,
    title: 'A capture address',
    about: 'For chat tools and scripts: POST {"title", "text", "url"} to it as JSON.',
  },
]
const door = (kind: 'mail' | 'capture') => query.data.value?.doors.find(d => d.kind === kind)
const messages = computed(() => inbox.data.value?.messages ?? [])

const busy = ref(false)
/** One at a time: a second click would open another door in the place of the first. */
async function change(work: () => Promise<unknown>, words: string): Promise<void> {
  if (busy.value) return
  busy.value = true
  if (await tell(work(), words)) await cache.invalidateQueries({ key: ['connections', 'doors'] })
  busy.value = false
}
const open = (kind: 'mail' | 'capture', again: boolean): Promise<void> =>
  change(
    () => answer(() => api.doors.$post({ json: { kind } })),
    again ? 'There is a new address; the old one leads nowhere any more.' : 'The address is open.',
  )
const disable = (kind: 'mail' | 'capture'): Promise<void> =>
  change(
    () => answer(() => api.doors[':kind'].$delete({ param: { kind } })),
    'The address is disabled. Whatever is sent to it is refused.',
  )
async function copy(text: string): Promise<void> {
  await navigator.clipboard.writeText(text)
  say({ text: 'Copied. Whoever has this address can add to your intake, and do nothing else.' })
}

const read = ref<{ title: string; sender: string; raw: string } | null>(null)
async function show(id: string, title: string): Promise<void> {
  await tell(
    answer(() => api.doors.messages[':item'].$get({ param: { item: id } })).then(
      m => (read.value = { title, ...m }),
    ),
    '',
  )
}
</script>

<template>
  <section class="sheet doors" aria-label="Into your intake from outside">
    <h2>Into your intake from outside</h2>
    <div class="both">
      <div v-for="k in KINDS" :key="k.kind" class="door">
        <h3><component :is="k.icon" :size="16" aria-hidden="true" /> {{ k.title }}</h3>
        <p class="quiet">{{ k.about }}</p>
        <template v-if="door(k.kind)">
          <p class="address">
            <code>{{ door(k.kind)?.address }}</code>
            <Button
              size="small"
              class="with-icon"
              :aria-label="`Copy ${k.title}`"
              @click="copy(door(k.kind)?.address ?? '')"
              ><PhCopy :size="14" /> Copy</Button
            >
          </p>
          <p class="quiet">
            Used {{ door(k.kind)?.uses }} {{ door(k.kind)?.uses === 1 ? 'time' : 'times'
            }}{{ door(k.kind)?.usedAt ? `, last ${agoWords(door(k.kind)?.usedAt ?? null, now)}` : '' }}.
            <button type="button" class="plain link" @click="open(k.kind, true)">New address</button>
            <button type="button" class="plain link wrong" @click="disable(k.kind)">Disable</button>
          </p>
        </template>
        <Button v-else :loading="busy" @click="open(k.kind, false)">Create</Button>
      </div>
    </div>
    <details v-if="messages.length > 0">
      <summary>
        {{ messages.length }} {{ messages.length === 1 ? 'message' : 'messages' }} kept with their tasks
      </summary>
      <ul>
        <li v-for="m in messages" :key="m.id">
          <button type="button" class="plain link" @click="show(m.id, m.title)">{{ m.title }}</button>
          <span class="quiet"> from {{ m.sender }}</span>
        </li>
      </ul>
    </details>
    <Modal v-if="read" open :title="read.title" :footer="null" :width="680" @cancel="read = null">
      <p class="quiet">As it came from {{ read.sender }}; nothing in it is run or loaded.</p>
      <pre>{{ read.raw.slice(0, 20000) }}</pre>
    </Modal>
  </section>
</template>

<style scoped>
.doors {
  padding: 10px 14px;
  margin-bottom: 10px;
}
.both {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(min(100%, 380px), 1fr));
  gap: 6px 28px;
}
h3 {
  display: flex;
  align-items: center;
  gap: 8px;
  margin-top: 8px;
}
p {
  margin: 4px 0 6px;
}
.address {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 8px;
}
code {
  padding: 3px 8px;
  background: var(--idle);
  border: 1px solid var(--warp);
  border-radius: 3px;
  overflow-wrap: anywhere;
}
.link {
  color: var(--amber);
  text-decoration: underline;
  margin-right: 8px;
}
.wrong {
  color: var(--clay);
}
summary {
  cursor: pointer;
}
ul {
  margin: 6px 0 0;
  padding-left: 18px;
}
pre {
  white-space: pre-wrap;
  overflow-wrap: anywhere;
  max-height: 50vh;
  overflow: auto;
  background: var(--idle);
  border: 1px solid var(--warp);
  padding: 8px;
  font-size: 12.5px;
}
</style>
