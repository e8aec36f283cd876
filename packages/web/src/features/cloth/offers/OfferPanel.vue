<script setup lang="ts">
import { PhPlus, PhX } from '@phosphor-icons/vue'
import { durationWords } from '@loom/core/view'
import { useQuery, useQueryCache } from '@pinia/colada'
import { computed, nextTick, onMounted, ref, useTemplateRef } from 'vue'
import { answer, api } from '../../../api/client.ts'
import { say } from '../../../stores/messages.ts'
import { OFFERS_KEY } from '../../../stores/offers.ts'
import { useAttempt } from '../../../ui/attempt.ts'
import ChooseSome from '../../../ui/ChooseSome.vue'
import SentenceChoice from '../../../ui/SentenceChoice.vue'
import type { Scene } from '../data/use-scene.ts'
import CommonTime from './CommonTime.vue'
import OfferHours from './OfferHours.vue'
import OffersGiven from './OffersGiven.vue'
import OfferText from './OfferText.vue'
import type { Offering } from './use-offering.ts'

/** Time for guests: drawn on the Cloth or repeated every week, on terms said in a sentence; and what is offered already. */
const props = defineProps<{ scene: Scene; offering: Offering }>()

const emit = defineEmits<{ beside: [date: string] }>()

const { given, terms, all } = props.offering
const me = computed(() => props.scene.data.value?.me ?? '')
const people = computed(() => props.scene.data.value?.people ?? [])
const LENGTHS = ['15', '30', '45', '60', '90', '120'].map(value => ({
  value,
  label: durationWords(Number(value)),
}))
const lengths = computed({
  get: () => given.lengths.map(String),
  set: all => {
    if (all.length > 0 && all.length <= 5) given.lengths = all.map(Number)
  },
})
const lengthWords = computed(() => given.lengths.map(l => durationWords(l)).join(' or '))
const hostOptions = computed(() =>
  [...people.value]
    .sort((x, y) => Number(y.id === me.value) - Number(x.id === me.value))
    .map(p => ({ value: p.id, label: p.id === me.value ? 'me' : p.name })),
)
const hostWords = computed(
  () => hostOptions.value.flatMap(o => (given.hosts.includes(o.value) ? [o.label] : [])).join(', ') || 'whom',
)
const HOW = [
  { value: 'any' as const, label: 'whoever is free' },
  { value: 'all' as const, label: 'all of us together' },
]
const KIND = [
  { value: 'spans' as const, label: 'in times drawn here' },
  { value: 'hours' as const, label: 'in hours every week' },
]
const AROUND = [0, 15, 30, 60].map(value => ({
  value,
  label: value === 0 ? 'nothing' : `${durationWords(value)} before and after`,
}))
const NOTICE = [0, 1, 4, 24, 48, 168].map(value => ({
  value,
  label: value === 0 ? 'at once' : value < 48 ? `${value} h before` : `${value / 24} days before`,
}))
const MOST = [0, 1, 2, 3, 5].map(value => ({
  value,
  label: value === 0 ? 'as many as fit' : `${value} at most`,
}))
const GIVES_WAY = [
  { value: 0, label: 'stays' },
  { value: 20, label: 'gives way where it hardly presses' },
  { value: 45, label: 'gives way where it does not press much' },
]
const calendars = computed(() => [
  { value: '', label: 'Amber Loom only' },
  ...props.scene.sources.value
    .filter(s => s.itemKind === 'event' && s.writable && !s.own)
    .map(s => ({ value: s.id, label: `${s.name} (${s.service})` })),
])

const isComplete = computed(() => given.kind === 'hours' || given.spans.length > 0)
const look = useQuery({
  key: () => ['team', 'offers', 'look', JSON.stringify({ ...terms.value, title: '' })],
  query: () =>
    answer(() =>
      api.offers.look.$post({ json: { terms: { ...terms.value, title: terms.value.title || '–' } } }),
    ),
  enabled: () => props.offering.side.value === 'guests' && isComplete.value && !made.value,
})
const found = computed(() => look.data.value?.starts.length ?? 0)
const lookWords = computed(() => {
  if (look.error.value) return look.error.value.message
  if (!look.data.value) return ''
  const others = given.hosts.some(h => h !== me.value) ? ', as far as your own time goes' : ''
  if (found.value === 0) return `Nothing of it is free${others}.`
  return `A guest can begin at ${found.value} ${found.value === 1 ? 'time' : 'times'}${others}.`
})

const made = ref<{ link: string; title: string; starts: number[]; minutes: number } | null>(null)
const { busy, reason, attempt } = useAttempt()
const cache = useQueryCache()
async function make(): Promise<void> {
  const starts = look.data.value?.starts ?? []
  const title = terms.value.title
  const minutes = Math.min(...terms.value.lengths)
  await attempt(async () => {
    const json = { terms: terms.value, hosts: given.hosts, into: given.into }
    const { link } = await answer(() => api.offers.$post({ json }))
    made.value = { link, title, starts, minutes }
    props.offering.reset()
    await cache.invalidateQueries({ key: OFFERS_KEY })
  })
}
const drop = (n: number): void => void given.spans.splice(n, 1)
function another(): void {
  made.value = null
}

function turn(): void {
  const { side, common } = props.offering
  side.value = side.value === 'us' ? 'guests' : 'us'
  common.value = null
}

const panel = useTemplateRef<HTMLElement>('panel')
const title = useTemplateRef<HTMLInputElement>('title')
// By an address one may be here before it is known who one is.
if (!given.hosts.some(Boolean)) given.hosts = [me.value]
onMounted(() => void nextTick(() => (title.value ?? panel.value)?.focus()))
const WHOLE_OFFER_WORDS =
  'Nobody can confirm a time, as this server sends no mail. Whoever runs it sets LOOM_MAIL_URL.'
function copied(): void {
  say({ text: 'The text is copied.' })
}
</script>

<template>
  <aside
    ref="panel"
    class="panel sheet"
    :aria-label="offering.side.value === 'us' ? 'A time among us' : 'Times for guests'"
    tabindex="-1"
    @keydown.esc="offering.close()"
  >
    <header>
      <h2>{{ offering.side.value === 'us' ? 'A time among us' : 'Times for guests' }}</h2>
      <button type="button" class="plain other" @click="turn">
        {{ offering.side.value === 'us' ? 'for guests' : 'among us' }}
      </button>
      <button type="button" class="plain" aria-label="Close" @click="offering.close()">
        <PhX :size="16" />
      </button>
    </header>
    <div class="scroll">
      <CommonTime
        v-if="offering.side.value === 'us'"
        :scene="scene"
        :offering="offering"
        :calendars="calendars"
        @beside="date => emit('beside', date)"
      />
      <section v-else-if="made" class="part" aria-label="The offer">
        <p>
          <strong>“{{ made.title }}” is offered.</strong> Send this; whoever has the address can book.
        </p>
        <OfferText :offer="made" :zone="scene.zone.value" @copied="copied" />
        <button type="button" class="push small" @click="another">Offer something else</button>
      </section>
      <form v-else class="part" aria-label="A new offer" @submit.prevent="make">
        <p v-if="!all.canMail.value" class="wrong">{{ WHOLE_OFFER_WORDS }}</p>
        <label class="field"
          >What it is about, as the guest reads it
          <input
            ref="title"
            v-model="given.title"
            class="native"
            maxlength="200"
            placeholder="A first talk, a visit, a question"
        /></label>
        <p class="sentence">
          For
          <ChooseSome v-model="lengths" name="How long" :label="lengthWords" :options="LENGTHS" />
          with
          <ChooseSome
            v-model="given.hosts"
            name="With whom"
            :label="hostWords"
            :options="hostOptions"
          /><template v-if="given.hosts.length > 1"
            >, <SentenceChoice v-model="given.how" name="One or all" :options="HOW" /></template
          >, <SentenceChoice v-model="given.kind" name="When" :options="KIND" />:
        </p>
        <template v-if="given.kind === 'spans'">
          <ul v-if="given.spans.length > 0" class="spans">
            <li v-for="(s, n) in given.spans" :key="s.fromMs">
              {{ offering.spanWords(s) }}
              <button
                type="button"
                class="plain"
                :aria-label="`Not ${offering.spanWords(s)}`"
                @click="drop(n)"
              >
                <PhX :size="13" />
              </button>
            </li>
          </ul>
          <p class="quiet">
            {{
              given.spans.length === 0
                ? 'Draw times on the Cloth with the mouse: nothing is chosen yet.'
                : 'Draw further times on the Cloth.'
            }}
          </p>
        </template>
        <OfferHours v-else v-model="given.hours" v-model:weeks="given.weeks" />
        <p class="sentence">
          Kept free around it:
          <SentenceChoice v-model="given.around" name="Kept free around it" :options="AROUND" />. Booked
          <SentenceChoice v-model="given.noticeHours" name="How long before" :options="NOTICE" />,
          <SentenceChoice v-model="given.mostPerDay" name="How many a day" :options="MOST" /> a day, and
          written into
          <SentenceChoice
            :model-value="given.into ?? ''"
            name="Written into"
            :options="calendars"
            @update:model-value="v => (given.into = v === '' ? null : v)"
          />. What I planned there
          <SentenceChoice v-model="given.givesWay" name="Planned work" :options="GIVES_WAY" />.
        </p>
        <div class="two">
          <input
            v-model="given.location"
            class="native"
            maxlength="300"
            placeholder="Place"
            aria-label="Place"
          />
          <input
            v-model="given.callLink"
            class="native"
            maxlength="1000"
            placeholder="Call link (https://…)"
            aria-label="Call link"
          />
        </div>
        <div v-for="(q, n) in given.questions" :key="n" class="question">
          <input
            v-model="q.text"
            class="native"
            maxlength="200"
            :aria-label="`Question ${n + 1}`"
            placeholder="What do you ask?"
          />
          <label class="check"><input v-model="q.needed" type="checkbox" /> needed</label>
          <button
            type="button"
            class="plain"
            :aria-label="`Without question ${n + 1}`"
            @click="given.questions.splice(n, 1)"
          >
            <PhX :size="13" />
          </button>
        </div>
        <button
          v-if="given.questions.length < 5"
          type="button"
          class="push small with-icon"
          @click="given.questions.push({ text: '', needed: false })"
        >
          <PhPlus :size="13" /> Ask the guest something
        </button>
        <p v-if="isComplete && lookWords" class="quiet" role="status">{{ lookWords }}</p>
        <p v-if="reason" class="wrong" role="alert">{{ reason }}</p>
        <button
          type="submit"
          class="push primary"
          :disabled="
            busy || !isComplete || given.title.trim() === '' || given.hosts.length === 0 || !all.canMail.value
          "
        >
          Make the offer
        </button>
      </form>
      <OffersGiven
        v-if="offering.side.value === 'guests'"
        :offering="offering"
        :scene="scene"
        :calendars="calendars"
      />
    </div>
  </aside>
</template>

<style scoped>
.panel {
  position: fixed;
  inset: 58px 14px 14px auto;
  width: 376px;
  z-index: 600;
  display: flex;
  flex-direction: column;
  box-sizing: border-box;
  min-height: 0;
}
.panel:focus {
  outline: none;
}
header {
  display: flex;
  justify-content: space-between;
  align-items: center;
  padding: 12px 14px;
}
h2 {
  flex: 1;
}
.other {
  color: var(--amber);
  text-decoration: underline;
  margin-right: 14px;
}
.scroll {
  flex: 1;
  min-height: 0;
  overflow: auto;
  border-top: 1px solid var(--warp);
}
.part {
  display: grid;
  gap: 10px;
  justify-items: start;
  padding: 12px 14px;
}
.part p {
  margin: 0;
}
.field {
  display: grid;
  gap: 4px;
  width: 100%;
  color: var(--husk);
}
.field .native {
  color: var(--peat);
}
.sentence {
  line-height: 1.9;
}
.spans {
  list-style: none;
  margin: 0;
  padding: 0;
  width: 100%;
}
.spans li {
  display: flex;
  justify-content: space-between;
  align-items: center;
  padding: 3px 8px;
  border-inline: 2px solid var(--moss);
  background: color-mix(in srgb, var(--moss) 9%, transparent);
}
.spans li + li {
  margin-top: 4px;
}
.two {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 8px;
  width: 100%;
}
.question {
  display: flex;
  align-items: center;
  gap: 8px;
  width: 100%;
}
.check {
  display: flex;
  align-items: center;
  gap: 4px;
  white-space: nowrap;
}
.wrong {
  color: var(--clay);
}
@media (max-width: 1000px) {
  .panel {
    inset: 58px 8px 8px 8px;
    width: auto;
  }
}
</style>
