<script setup lang="ts">
import { durationWords } from '@loom/core/view'
import { useQueryCache } from '@pinia/colada'
import { computed, ref } from 'vue'
import { answer, api } from '../../../api/client.ts'
import { say } from '../../../stores/messages.ts'
import { type GivenOffer, OFFERS_KEY } from '../../../stores/offers.ts'
import { useAttempt } from '../../../ui/attempt.ts'
import SentenceChoice from '../../../ui/SentenceChoice.vue'
import type { Scene } from '../data/use-scene.ts'
import type { Offering } from './use-offering.ts'

/** What is offered, what of it is booked, and where colleagues ask for one's own time. */
const props = defineProps<{
  offering: Offering
  scene: Scene
  calendars: readonly { value: string; label: string }[]
}>()
const { all, spanWords } = props.offering
const me = computed(() => props.scene.data.value?.me ?? '')
const { asks } = props.offering
const standing = computed(() => all.offers.value.filter(o => !asks.value.includes(o) && !o.isOver))
const over = computed(() => all.offers.value.filter(o => o.isOver && o.bookings.length > 0))
const into = ref('')
const { busy, reason, attempt } = useAttempt()
const cache = useQueryCache()
async function act(ask: () => Promise<unknown>, text: string, back?: () => Promise<unknown>): Promise<void> {
  if (await attempt(ask)) say({ text, ...(back && { undo: () => void act(back, 'It stands again.') }) })
  await cache.invalidateQueries({ key: OFFERS_KEY })
}
const end = (o: GivenOffer, isOver: boolean) => () =>
  answer(() => api.offers[':id'].end.$put({ param: { id: o.id }, json: { over: isOver } }))
const part = (o: GivenOffer, takes: boolean) => () =>
  answer(() =>
    api.offers[':id'].part.$post({ param: { id: o.id }, json: { takes, into: into.value || null } }),
  )
const callOff = (id: string) => () => answer(() => api.offers.bookings[':id'].$delete({ param: { id } }))
const sure = ref('')
const about = (o: GivenOffer): string => {
  const { when, lengths } = o.terms
  const long = lengths.map(l => durationWords(l)).join(' or ')
  const times =
    when.kind === 'hours' ? 'every week' : when.spans.length === 1 ? 'one span' : `${when.spans.length} spans`
  const waits = o.hosts.filter(h => !h.agreed && h.id !== me.value).map(h => h.name)
  return [long, times, waits.length > 0 ? `${waits.join(', ')} has not agreed yet` : '']
    .filter(Boolean)
    .join(' · ')
}
async function copy(o: GivenOffer): Promise<void> {
  await navigator.clipboard.writeText(o.link ?? '')
  say({ text: 'The address is copied.' })
}
</script>

<template>
  <section v-if="asks.length > 0" class="list" aria-label="You are asked for your time">
    <h3>You are asked for your time</h3>
    <div v-for="o in asks" :key="o.id" class="offer">
      <strong>{{ o.terms.title }}</strong>
      <span class="quiet"
        >with
        {{
          o.hosts
            .filter(h => h.id !== me)
            .map(h => h.name)
            .join(', ')
        }}
        · {{ about(o) }}</span
      >
      <span
        >Written into <SentenceChoice v-model="into" name="Written into" :options="[...calendars]" />. Guests
        see only when you are free.</span
      >
      <span class="acts">
        <button
          type="button"
          class="push small primary"
          :disabled="busy"
          @click="act(part(o, true), `${o.terms.title}: your time is offered.`)"
        >
          Offer my time
        </button>
        <button
          type="button"
          class="push small"
          :disabled="busy"
          @click="act(part(o, false), `${o.terms.title}: without you.`)"
        >
          Not mine
        </button>
      </span>
    </div>
  </section>
  <section v-if="standing.length + over.length > 0" class="list" aria-label="Offered now">
    <h3>Offered now</h3>
    <p v-if="reason" class="wrong" role="alert">{{ reason }}</p>
    <p v-if="standing.length === 0" class="quiet">Nothing any more; this is booked:</p>
    <div v-for="o in [...standing, ...over]" :key="o.id" class="offer">
      <strong>{{ o.terms.title }}</strong>
      <span class="quiet">{{ about(o) }}</span>
      <ul v-if="o.bookings.length > 0">
        <li v-for="b in o.bookings" :key="b.id">
          <span
            >{{ spanWords({ fromMs: b.startMs, toMs: b.endMs }) }}, {{ b.guest
            }}{{ b.state === 'asked' ? ', not confirmed yet' : '' }}</span
          >
          <button
            v-if="sure !== b.id"
            type="button"
            class="plain link"
            :aria-label="`Call off ${b.guest}`"
            @click="sure = b.id"
          >
            Call off
          </button>
          <span v-else class="acts">
            {{ b.guest }} is told.
            <button
              type="button"
              class="push small"
              :disabled="busy"
              @click="act(callOff(b.id), `${b.guest} is told that it does not take place.`)"
            >
              Call it off
            </button>
            <button type="button" class="push small" @click="sure = ''">Keep it</button>
          </span>
        </li>
      </ul>
      <span v-if="o.isMine && !o.isOver" class="acts">
        <button type="button" class="push small" @click="copy(o)">Copy the address</button>
        <button
          type="button"
          class="push small"
          :disabled="busy"
          @click="act(end(o, true), `${o.terms.title}: withdrawn. What is booked stands.`, end(o, false))"
        >
          Withdraw
        </button>
      </span>
    </div>
  </section>
  <p v-if="all.trouble.value" class="wrong list" role="alert">{{ all.trouble.value }}</p>
</template>

<style scoped>
.list {
  display: grid;
  gap: 8px;
  padding: 12px 14px;
  border-top: 1px solid var(--warp);
}
h3,
p {
  margin: 0;
}
.offer {
  display: grid;
  gap: 4px;
  padding: 8px 10px;
  border: 1px solid var(--warp);
  border-radius: 3px;
  background: var(--cloth);
}
ul {
  list-style: none;
  margin: 2px 0;
  padding: 0;
  display: grid;
  gap: 4px;
}
li {
  display: flex;
  flex-wrap: wrap;
  justify-content: space-between;
  gap: 2px 8px;
}
.link {
  color: var(--amber);
  text-decoration: underline;
}
.acts {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 6px;
}
.wrong {
  color: var(--clay);
}
</style>
