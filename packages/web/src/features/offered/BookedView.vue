<script setup lang="ts">
import { MINUTE } from '@loom/core/view'
import { useQuery } from '@pinia/colada'
import { computed, ref, watch } from 'vue'
import { answer, api } from '../../api/client.ts'
import { useAttempt } from '../../ui/attempt.ts'
import { linkToken } from '../entry/link-token.ts'
import FreeDays from './FreeDays.vue'
import { aheadWords, hourWord, longDayWord, ownZone, placeOfZone, zoneName } from './local-words.ts'

/** What a guest has booked: confirmed here, moved, and called off. */
const headers = { 'Loom-Link': linkToken() }
const query = useQuery({
  key: ['booking'],
  query: () => answer(() => api.times.booking.$get({}, { headers })),
})
const told = computed(() => query.data.value)
const zone = ownZone()
const isMoving = ref(false)
const isSure = ref(false)
const times = useQuery({
  key: ['booking', 'times'],
  query: () => answer(() => api.times.booking.times.$get({}, { headers })),
  enabled: () => isMoving.value,
})
const starts = computed(() => times.data.value?.starts ?? [])
const minutes = computed(() => ((told.value?.endMs ?? 0) - (told.value?.startMs ?? 0)) / MINUTE)
const chosen = ref<number | null>(null)
watch(starts, now => {
  if (chosen.value !== null && !now.includes(chosen.value)) chosen.value = null
})
const { busy, reason, attempt } = useAttempt()
const said = ref('')
async function act(ask: () => Promise<unknown>, then: string): Promise<void> {
  if (await attempt(ask)) {
    said.value = then
    isMoving.value = false
    isSure.value = false
  } else void times.refetch()
  await query.refetch()
}
const confirm = () =>
  act(
    () => answer(() => api.times.booking.confirm.$post({}, { headers })),
    'Booked. An invitation is on its way to you by mail.',
  )
const move = () =>
  act(
    () => answer(() => api.times.booking.move.$post({ json: { startMs: chosen.value ?? 0 } }, { headers })),
    'Moved. A new invitation is on its way to you by mail.',
  )
const callOff = () =>
  act(() => answer(() => api.times.booking['call-off'].$post({}, { headers })), 'Called off.')

const words = (startMs: number): string =>
  `${longDayWord(startMs, zone)}, ${hourWord(startMs, zone)} – ${hourWord(startMs + minutes.value * MINUTE, zone)}`
const theirs = computed(() => {
  const { startMs = 0, endMs = 0, zone: of = 'UTC' } = told.value ?? {}
  return aheadWords(startMs, zone, of)
    ? `${hourWord(startMs, of)} – ${hourWord(endMs, of)} in ${placeOfZone(of)}`
    : ''
})
const with_ = computed(() => told.value?.hosts.join(', ') || told.value?.maker || '')
const WHY = computed(() => ({
  unconfirmed: 'It was not confirmed in time, and is no longer held.',
  guest: 'You have called it off.',
  host: `${with_.value} had to call it off.`,
  refused: 'It could not be written into the calendar, and does not take place.',
}))
const isPast = computed(() => (told.value?.endMs ?? Infinity) <= Date.now())
</script>

<template>
  <main class="times">
    <p v-if="query.error.value" class="trouble" role="alert">{{ query.error.value.message }}</p>
    <template v-if="told">
      <header>
        <h1>{{ told.title }}</h1>
        <span class="quiet">with {{ with_ }}, {{ told.workspace }}</span>
      </header>
      <div class="card">
        <h2 :class="{ over: told.state === 'ended' }">{{ words(told.startMs) }}</h2>
        <p class="quiet">
          Times in {{ zoneName(zone) }}<template v-if="theirs">; {{ theirs }}</template>
        </p>
        <p v-if="told.place">
          <a v-if="told.place.startsWith('https://')" :href="told.place" rel="noreferrer">{{ told.place }}</a>
          <template v-else>{{ told.place }}</template>
        </p>
        <p v-if="told.message" class="quiet">“{{ told.message }}”</p>
        <p v-if="told.state === 'ended'">{{ WHY[told.why ?? 'host'] }}</p>
        <p v-if="said && told.state !== 'ended'" role="status">{{ said }}</p>
        <p v-if="reason" class="wrong" role="alert">{{ reason }}</p>
        <div v-if="told.state === 'asked'" class="acts">
          <button type="button" class="push primary" :disabled="busy" @click="confirm">
            Confirm this time
          </button>
          <button type="button" class="push" :disabled="busy" @click="callOff">Let it go</button>
        </div>
        <div v-else-if="told.state === 'booked' && !isPast && !isSure" class="acts">
          <button v-if="told.isOpen && !isMoving" type="button" class="push" @click="isMoving = true">
            Move it
          </button>
          <button type="button" class="push" @click="isSure = true">Call it off</button>
        </div>
        <div v-else-if="isSure" class="acts" role="group" aria-label="Call it off?">
          <span>Call it off? {{ with_ }} is told.</span>
          <button type="button" class="push primary" :disabled="busy" @click="callOff">Call it off</button>
          <button type="button" class="push" @click="isSure = false">Keep it</button>
        </div>
      </div>
      <template v-if="isMoving">
        <h2 class="to">Move it to</h2>
        <FreeDays
          v-if="starts.length > 0"
          v-model="chosen"
          :starts="starts"
          :minutes="minutes"
          :zone="zone"
        />
        <p v-else-if="times.data.value" class="card">Nothing else is free at the moment.</p>
        <div class="acts to">
          <button type="button" class="push primary" :disabled="busy || chosen === null" @click="move">
            {{ chosen === null ? 'Choose a time' : `Move it to ${words(chosen)}` }}
          </button>
          <button type="button" class="push" @click="isMoving = false">Leave it where it is</button>
        </div>
      </template>
    </template>
  </main>
</template>

<style scoped src="./offered.css"></style>
<style scoped>
.over {
  text-decoration: line-through;
}
.to {
  margin: 18px 0 10px;
}
</style>
