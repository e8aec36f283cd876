<script setup lang="ts">
import { useQuery } from '@pinia/colada'
import { computed, ref } from 'vue'
import { answer, api, Refused } from '../../api/client.ts'
import { say } from '../../stores/messages.ts'
import { useAttempt } from '../../ui/attempt.ts'
import { deviceState, deviceWords, subscribeHere, unsubscribeHere } from './this-device.ts'

/** Where reminders reach somebody: in the page always; by mail, and on devices while no page is open, if they wish. */
defineProps<{ byMail: boolean }>()
const emit = defineEmits<{ mail: [wanted: boolean] }>()

const query = useQuery({
  key: ['reminders', 'devices'],
  query: () => answer(() => api.reminders.push.$get()),
})
const devices = computed(() => query.data.value?.devices ?? [])
const isHere = computed(() => devices.value.some(d => d.here))
const state = deviceState()
const { attempt, busy, reason } = useAttempt()
const why = ref('')

async function addThis(): Promise<void> {
  why.value = ''
  const key = query.data.value?.key
  if (key === undefined) return
  try {
    const { endpoint = '', keys = {} } = await subscribeHere(key)
    const subscription = { endpoint, keys: { p256dh: keys.p256dh ?? '', auth: keys.auth ?? '' } }
    const json = { subscription, device: deviceWords() }
    if (!(await attempt(() => answer(() => api.reminders.push.$post({ json }))))) return
    await query.refetch()
  } catch (error) {
    // Said by the browser or its person, in a sentence.
    why.value = error instanceof Error ? error.message : 'It did not work.'
  }
}
async function remove(id: string, here: boolean): Promise<void> {
  await attempt(() => answer(() => api.reminders.push[':id'].$delete({ param: { id } })))
  if (here) await unsubscribeHere().catch(() => undefined)
  await query.refetch()
}
async function tryIt(id: string): Promise<void> {
  try {
    await answer(() => api.reminders.push[':id'].try.$post({ param: { id } }))
    say({ text: 'Sent. It should be there in a moment.' })
  } catch (error) {
    if (!(error instanceof Refused)) throw error
    say({ text: error.message, tone: 'wrong' })
    await query.refetch()
  }
}
</script>

<template>
  <section class="sheet part" aria-labelledby="where">
    <h2 id="where">Where it reaches me</h2>
    <p class="line">In the page: whenever Amber Loom is open.</p>
    <p class="line">
      <label>
        <input
          type="checkbox"
          :checked="byMail"
          :disabled="query.data.value?.byMail === false"
          @change="e => emit('mail', (e.target as HTMLInputElement).checked)"
        />
        By mail
      </label>
      <span v-if="query.data.value?.byMail === false" class="quiet"> · this server sends no mail</span>
    </p>
    <h3>On devices, while no page is open</h3>
    <p v-if="query.error.value" class="wrong" role="alert">{{ query.error.value.message }}</p>
    <ul v-if="devices.length > 0">
      <li v-for="d in devices" :key="d.id">
        <span class="name">{{ d.device || 'A browser' }}{{ d.here ? ', this one' : '' }}</span>
        <span v-if="d.failures > 0" class="wrong"
          >not reached {{ d.failures === 1 ? 'once' : `${d.failures} times` }}</span
        >
        <button type="button" class="push small" @click="tryIt(d.id)">Try it</button>
        <button
          type="button"
          class="push small"
          :aria-label="`Remove ${d.device || 'the browser'}${d.here ? ', this one' : ''}`"
          @click="remove(d.id, d.here)"
        >
          Remove
        </button>
      </li>
    </ul>
    <p v-else-if="query.data.value" class="quiet">None yet.</p>
    <p v-if="state === 'impossible'" class="quiet">
      This browser cannot be told anything while no page is open. On a telephone it may after the page was put
      on the home screen.
    </p>
    <p v-else-if="state === 'denied'" class="quiet">
      This browser was told not to show messages of this page. Its settings for the page change that.
    </p>
    <button
      v-else-if="query.data.value && !isHere"
      type="button"
      class="push primary"
      :disabled="busy"
      @click="addThis"
    >
      Remind me on this device
    </button>
    <p v-if="why || reason" class="wrong" role="alert">{{ why || reason }}</p>
    <p class="quiet">
      A device is told until you sign out there. What is sent to it only that device can read.
    </p>
  </section>
</template>

<style scoped>
.part {
  padding: 14px 18px;
}
h2 {
  font-size: 16px;
  margin: 0 0 8px;
}
h3 {
  font-size: 14px;
  margin: 16px 0 6px;
}
.line {
  margin: 0 0 9px;
}
ul {
  list-style: none;
  margin: 0 0 10px;
  padding: 0;
}
li {
  display: flex;
  align-items: center;
  gap: 8px;
  padding: 5px 0;
  border-top: 1px solid var(--warp);
}
.name {
  flex: 1;
}
.quiet {
  font-size: 13px;
}
.push.primary {
  margin-bottom: 10px;
}
.wrong {
  color: var(--clay);
}
</style>
