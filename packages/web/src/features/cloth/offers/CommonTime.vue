<script setup lang="ts">
import { addDays, dayAt, dayWords, durationWords, epochOf, MINUTE, onDate } from '@loom/core/view'
import { useQuery, useQueryCache } from '@pinia/colada'
import { computed, watch } from 'vue'
import { answer, api } from '../../../api/client.ts'
import { say } from '../../../stores/messages.ts'
import { takeBackDraft } from '../../../stores/take-back.ts'
import { useAttempt } from '../../../ui/attempt.ts'
import ChooseSome from '../../../ui/ChooseSome.vue'
import SentenceChoice from '../../../ui/SentenceChoice.vue'
import { clockWords } from '../../../ui/telling.ts'
import type { Scene } from '../data/use-scene.ts'
import type { Offering } from './use-offering.ts'

/** When colleagues can meet: the best three times with what each costs whom, and one step to write one. */
const props = defineProps<{
  scene: Scene
  offering: Offering
  calendars: { value: string; label: string }[]
}>()

/** All of them in rows, over the hours of that day. */
const emit = defineEmits<{ beside: [date: string] }>()

const me = computed(() => props.scene.data.value?.me ?? '')
const people = computed(() => props.scene.data.value?.people ?? [])
const { us: given } = props.offering
const others = computed(() =>
  people.value.filter(p => p.id !== me.value).map(p => ({ value: p.id, label: p.name })),
)
const withWords = computed(
  () => others.value.flatMap(o => (given.people.includes(o.value) ? [o.label] : [])).join(', ') || 'whom',
)
const LENGTHS = [15, 30, 45, 60, 90, 120, 180].map(value => ({ value, label: durationWords(value) }))
const DAYS = [
  { value: 1, label: 'today' },
  { value: 3, label: 'within 3 days' },
  { value: 7, label: 'within 7 days' },
  { value: 14, label: 'within two weeks' },
  { value: 28, label: 'within four weeks' },
]
const BELOW = [
  { value: 0, label: 'stays' },
  { value: 20, label: 'gives way where it hardly presses' },
  { value: 45, label: 'gives way where it does not press much' },
]
/** Into a calendar, so that colleagues have it in theirs: Amber Loom alone sends nothing to anybody. */
const into = computed({
  get: () =>
    given.into ?? props.offering.given.into ?? props.calendars.find(c => c.value !== '')?.value ?? '',
  set: to => (given.into = to),
})
const zone = computed(() => props.scene.zone.value)
const together = computed(() => [me.value, ...given.people])
/** From the quarter that is next; the same until that has come. */
const fromMs = computed(() => Math.ceil(props.scene.now.value / (15 * MINUTE)) * 15 * MINUTE)
const asked = computed(() => {
  const lastDay = addDays(dayAt(fromMs.value, zone.value), given.days)
  const toMs = epochOf(onDate(lastDay), zone.value)
  return { people: together.value, minutes: given.minutes, below: given.below, fromMs: fromMs.value, toMs }
})
const look = useQuery({
  key: () => ['cloth', 'common-time', JSON.stringify(asked.value)],
  query: () => answer(() => api['common-time'].look.$post({ json: asked.value })),
  enabled: () => given.people.length > 0,
})
const times = computed(() => (given.people.length > 0 ? (look.data.value?.times ?? []) : []))
type Time = (typeof times.value)[number]

const nameOf = (id: string): string => (id === me.value ? 'You' : props.scene.nameOf(id))
const momentWords = (ms: number): string => `${dayWords(dayAt(ms, zone.value))} ${clockWords(ms, zone.value)}`
/** What of it is told where their clocks show something else. */
const elsewhere = (t: Time): string[] => {
  const here = clockWords(t.fromMs, zone.value)
  return people.value.flatMap(p => {
    const there = clockWords(t.fromMs, p.hours.zone)
    return given.people.includes(p.id) && there !== here ? [`${there} for ${p.name}`] : []
  })
}
function reasonWords(r: Time['reasons'][number]): string {
  if (r.kind === 'outside') {
    const whose = r.person === me.value ? 'your' : `${nameOf(r.person)}’s`
    return `${durationWords(r.minutes)} outside ${whose} hours`
  }
  const whose = r.person === me.value ? 'Your' : `${nameOf(r.person)}’s`
  const what = r.title === null ? `${whose} planned work` : `${whose} “${r.title}”`
  return `${what} goes ${r.to === null ? 'to the shelf' : `to ${momentWords(r.to)}`}`
}

const chosenTime = computed(() => times.value.find(t => t.fromMs === given.chosen) ?? null)
function choose(t: Time): void {
  given.chosen = t.fromMs
  const date = dayAt(t.fromMs, zone.value)
  if (!props.scene.dates.value.includes(date)) props.scene.go(date)
}
const drawn = (): void => {
  const t = chosenTime.value
  const { common } = props.offering
  common.value = t && { fromMs: t.fromMs, toMs: t.toMs, title: given.title.trim(), people: together.value }
}
watch([chosenTime, () => given.title, together], drawn, { immediate: true })
const { attempt, busy, reason } = useAttempt()
const cache = useQueryCache()
async function take(): Promise<void> {
  const t = chosenTime.value
  if (!t) return
  const title = given.title.trim()
  const { minutes, below } = given
  await attempt(async () => {
    const json = {
      ...{ people: together.value, minutes, below, startMs: t.fromMs, title },
      location: given.location.trim(),
      into: into.value === '' ? null : into.value,
    }
    const made = await answer(() => api['common-time'].take.$post({ json }))
    const moved = made.gave.filter(g => g.why === null)
    const stays = made.gave.filter(g => g.why !== null)
    const step = { title, made: [made.intent], edits: made.backs }
    say({
      text: [
        `“${title}” is written: ${momentWords(t.fromMs)}, in ${made.place}.`,
        moved.length === 0
          ? ''
          : `${moved.map(g => g.title).join(', ')} ${moved.length === 1 ? 'goes' : 'go'} elsewhere.`,
        ...stays.map(g => `${nameOf(g.person)}: planned work stays. ${g.why ?? ''}`),
      ]
        .join(' ')
        .replaceAll('  ', ' ')
        .trim(),
      undo: () => void takeBackDraft(step),
      back: { do: 'draft', ...step },
    })
    given.chosen = null
    given.title = ''
    await cache.invalidateQueries({ key: ['cloth'] })
  })
  if (reason.value) await look.refetch()
}
</script>

<template>
  <form class="among" aria-label="A time among us" @submit.prevent="take">
    <p v-if="others.length === 0" class="quiet">You are alone here. Colleagues are invited under Team.</p>
    <p v-else class="sentence">
      Find <SentenceChoice v-model="given.minutes" name="How long we meet" :options="LENGTHS" /> with
      <ChooseSome v-model="given.people" name="With which colleagues" :label="withWords" :options="others" />,
      <SentenceChoice v-model="given.days" name="Within which days" :options="DAYS" />. What is planned
      <SentenceChoice v-model="given.below" name="Planned work of ours" :options="BELOW" />.
    </p>
    <p v-if="given.people.length === 0 && others.length > 0" class="quiet">
      Choose who is to be there. All that they have counts; only times are told.
    </p>
    <p v-else-if="look.error.value" class="wrong" role="alert">{{ look.error.value.message }}</p>
    <p v-else-if="look.data.value && times.length === 0" class="quiet">
      There is no such time. Look further ahead, make it shorter, or let planned work give way.
    </p>
    <ul v-if="times.length > 0" class="times" aria-label="The best times">
      <li v-for="t in times" :key="t.fromMs">
        <button
          type="button"
          class="plain time"
          :class="{ chosen: t.fromMs === given.chosen }"
          :aria-pressed="t.fromMs === given.chosen"
          @click="choose(t)"
        >
          <strong>{{ momentWords(t.fromMs) }}–{{ clockWords(t.toMs, zone) }}</strong>
          <span v-for="w in elsewhere(t)" :key="w">{{ w }}</span>
          <span v-if="t.reasons.length === 0">free for all</span>
          <span v-for="(r, n) in t.reasons" :key="n" class="price">{{ reasonWords(r) }}</span>
        </button>
      </li>
    </ul>
    <template v-if="chosenTime">
      <button
        v-if="scene.body.value.rows !== 'people'"
        type="button"
        class="push small"
        @click="emit('beside', dayAt(chosenTime.fromMs, zone))"
      >
        Show us side by side
      </button>
      <input
        v-model="given.title"
        class="native"
        maxlength="200"
        aria-label="What we meet about"
        placeholder="What we meet about"
      />
      <input
        v-model="given.location"
        class="native"
        maxlength="300"
        aria-label="Where we meet"
        placeholder="Place"
      />
      <p class="sentence">
        Written into <SentenceChoice v-model="into" name="Into which calendar" :options="calendars" />, with
        the others as guests.
      </p>
      <button type="submit" class="push primary" :disabled="busy || given.title.trim() === ''">
        Write it: {{ momentWords(chosenTime.fromMs) }}
      </button>
    </template>
    <p v-if="reason" class="wrong" role="alert">{{ reason }}</p>
  </form>
</template>

<style scoped>
.among {
  display: grid;
  gap: 10px;
  padding: 12px 14px;
}
.among p {
  margin: 0;
}
.sentence {
  line-height: 1.9;
}
.times {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  gap: 6px;
}
.time {
  display: grid;
  gap: 1px;
  width: 100%;
  text-align: left;
  padding: 7px 10px;
  border: 1px solid var(--warp-strong);
  border-inline: 3px solid var(--moss);
}
.time:hover {
  background: var(--idle);
}
.time.chosen {
  background: color-mix(in srgb, var(--moss) 14%, transparent);
}
.time span {
  font-size: 13px;
  color: var(--husk);
}
.time .price {
  color: var(--amber);
}
.push {
  justify-self: start;
}
.wrong {
  color: var(--clay);
}
</style>
