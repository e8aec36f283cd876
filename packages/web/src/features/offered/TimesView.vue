<script setup lang="ts">
import { durationWords, MINUTE } from '@loom/core/view'
import { useQuery } from '@pinia/colada'
import { useIntervalFn } from '@vueuse/core'
import { computed, nextTick, reactive, ref, useTemplateRef, watch } from 'vue'
import { answer, api, Refused } from '../../api/client.ts'
import { newId } from '../../api/new-id.ts'
import { useAttempt } from '../../ui/attempt.ts'
import { zoneChoices } from '../../ui/zones.ts'
import { linkToken } from '../entry/link-token.ts'
import FreeDays from './FreeDays.vue'
import { aheadWords, hourWord, longDayWord, ownZone, placeOfZone, zoneName } from './local-words.ts'

/**
 * Times that somebody offers, for a guest without an account: one is chosen, and confirmed by mail. What was typed stays
 * whatever happens to the time.
 */
const headers = { 'Loom-Link': linkToken() }
const query = useQuery({ key: ['times'], query: () => answer(() => api.times.$get({}, { headers })) })
const AGAIN_MS = 30_000
useIntervalFn(() => void query.refetch(), AGAIN_MS)
const ended = computed(() => query.error.value instanceof Refused && query.error.value.status === 404)
const told = computed(() => (ended.value ? undefined : query.data.value))

const zone = ref(ownZone())
const zones = zoneChoices(zone.value, Date.now())
const minutes = ref(0)
watch(
  () => told.value?.lengths,
  lengths => {
    if (lengths && !lengths.includes(minutes.value)) minutes.value = lengths[0] ?? 0
  },
  { immediate: true },
)
const starts = computed(() => told.value?.free.find(f => f.minutes === minutes.value)?.starts ?? [])
const chosen = ref<number | null>(null)
/** A time is held until then, and waits to be confirmed. */
const held = ref<{ until: number } | null>(null)
/** Told beside the form, which stays as it is. */
const taken = ref('')
watch(starts, now => {
  // What is held for this guest is taken by themselves.
  if (chosen.value === null || held.value || now.includes(chosen.value)) return
  taken.value = `${hourWord(chosen.value, zone.value)} has just been taken. What you wrote is still here: choose another time.`
  chosen.value = null
})
watch(chosen, at => {
  if (at !== null) taken.value = ''
})

const guest = reactive({ name: '', address: '', message: '', answers: [] as string[] })
const by = ref<'place' | 'call'>('place')
const both = computed(() => told.value?.location !== '' && told.value?.hasCall === true)
const askedAs = ref(newId())
watch([chosen, minutes, () => guest.address], () => (askedAs.value = newId()))
const { busy, reason, attempt } = useAttempt()
const result = useTemplateRef<HTMLElement>('result')
async function book(): Promise<void> {
  const startMs = chosen.value
  if (startMs === null) return
  const json = {
    startMs,
    minutes: minutes.value,
    askedAs: askedAs.value,
    guest: {
      ...guest,
      answers: (told.value?.questions ?? []).map((_, n) => guest.answers[n] ?? ''),
      by: by.value,
      zone: zone.value,
    },
  }
  const done = await attempt(async () => {
    held.value = await answer(() => api.times.ask.$post({ json }, { headers }))
  })
  if (done) await nextTick(() => result.value?.focus())
  else void query.refetch()
}
function chooseAnother(): void {
  held.value = null
  chosen.value = null
  void query.refetch()
}
const timeWords = (startMs: number): string =>
  `${longDayWord(startMs, zone.value)}, ${hourWord(startMs, zone.value)} – ${hourWord(startMs + minutes.value * MINUTE, zone.value)}`
const theirs = (startMs: number): string => {
  const of = told.value?.zone ?? 'UTC'
  return `${hourWord(startMs, of)} – ${hourWord(startMs + minutes.value * MINUTE, of)} in ${placeOfZone(of)}`
}
const ahead = computed(() =>
  aheadWords(chosen.value ?? starts.value[0] ?? Date.now(), zone.value, told.value?.zone ?? 'UTC'),
)
const with_ = computed(() => {
  const { hosts = [], maker = '', how } = told.value ?? {}
  if (hosts.length === 0) return maker
  return hosts.length > 1 && how === 'any'
    ? `${hosts.slice(0, -1).join(', ')} or ${hosts.at(-1)}`
    : hosts.join(', ')
})
const trouble = computed(() => query.error.value?.message ?? '')
</script>

<template>
  <main class="times">
    <p v-if="trouble" class="trouble" role="alert">{{ trouble }}</p>
    <template v-if="told">
      <header>
        <h1>A time with {{ with_ }}</h1>
        <span class="quiet">{{ told.workspace }}</span>
      </header>
      <p class="sentence">
        “{{ told.title }}”,
        <strong v-if="told.lengths.length === 1">{{ durationWords(minutes) }}</strong>
        <label v-else class="inline"
          ><span class="hidden">How long</span>
          <select v-model="minutes">
            <option v-for="l in told.lengths" :key="l" :value="l">{{ durationWords(l) }}</option>
          </select></label
        ><template v-if="told.location"
          >, at <strong>{{ told.location }}</strong></template
        ><template v-if="told.hasCall">{{ told.location ? ' or by a call' : ', by a call' }}</template
        >. Times in
        <label class="inline"
          ><span class="hidden">Time zone</span>
          <select v-model="zone">
            <option v-for="z in zones" :key="z.value" :value="z.value">{{ z.label }}</option>
          </select></label
        ><template v-if="ahead">, which is {{ ahead }}</template
        >.
      </p>
      <FreeDays
        v-if="starts.length > 0 && !held"
        v-model="chosen"
        :starts="starts"
        :minutes="minutes"
        :zone="zone"
      />
      <p v-else-if="!held" class="card">
        Nothing is free at the moment. Look again later, or ask {{ told.maker }} for other times.
      </p>
      <p v-if="taken" class="trouble" role="alert">{{ taken }}</p>

      <div v-if="held" ref="result" class="card" role="status" tabindex="-1">
        <h2>Look into your mail</h2>
        <p>
          A letter is on its way to <strong>{{ guest.address }}</strong>. Confirm the time with the address in
          it until {{ hourWord(held.until, zone) }}; so long it is held for you.
        </p>
        <p v-if="chosen !== null" class="quiet">{{ timeWords(chosen) }} ({{ zoneName(zone) }})</p>
        <button type="button" class="push" @click="chooseAnother">Choose another time</button>
      </div>
      <div v-else-if="starts.length > 0 || guest.name || guest.address" class="below">
        <form class="card" @submit.prevent="book">
          <h2 v-if="chosen !== null">{{ timeWords(chosen) }}</h2>
          <h2 v-else>Choose a time above</h2>
          <p v-if="chosen !== null && ahead" class="quiet">{{ theirs(chosen) }}</p>
          <label
            >Name <input v-model="guest.name" class="native" required maxlength="100" autocomplete="name"
          /></label>
          <label
            >Mail address
            <input
              v-model="guest.address"
              class="native"
              type="email"
              required
              maxlength="254"
              autocomplete="email"
          /></label>
          <fieldset v-if="both">
            <legend>Where</legend>
            <label class="radio"><input v-model="by" type="radio" value="place" /> {{ told.location }}</label>
            <label class="radio"><input v-model="by" type="radio" value="call" /> By a call</label>
          </fieldset>
          <label v-for="(q, n) in told.questions" :key="q.text"
            >{{ q.text }}<template v-if="!q.needed"> (optional)</template>
            <input v-model="guest.answers[n]" class="native" maxlength="1000" :required="q.needed"
          /></label>
          <label
            >Message (optional)
            <textarea v-model="guest.message" class="native" rows="2" maxlength="2000"></textarea>
          </label>
          <p v-if="reason" class="wrong" role="alert">{{ reason }}</p>
          <button type="submit" class="push primary" :disabled="chosen === null || busy">
            {{ busy ? 'Booking…' : 'Book' }}
          </button>
        </form>
        <div class="notes quiet">
          <p>
            You need no account. You confirm by mail, and get an invitation with an address to move it or call
            it off.
          </p>
          <p>Somebody may take a time while you look; then it goes from here, and you are told.</p>
          <p>What {{ told.hosts[0] ?? told.maker }} does at other times is not shown.</p>
        </div>
      </div>
    </template>
  </main>
</template>

<style scoped src="./offered.css"></style>
