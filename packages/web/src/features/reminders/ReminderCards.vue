<script setup lang="ts">
import { dayAt, dayWords } from '@loom/core/view'
import { useIntervalFn } from '@vueuse/core'
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'
import { useSession } from '../../stores/session.ts'
import type { GivenReminder } from '../../stores/reminders.ts'
import SentenceChoice from '../../ui/SentenceChoice.vue'
import { clockWords } from '../../ui/telling.ts'

/** What somebody is reminded of, until they are done with it: at the edge of the page, over nothing that they do. */
const props = defineProps<{ given: readonly GivenReminder[] }>()
const emit = defineEmits<{ done: [ids: string[]]; later: [id: string, againAt: number] }>()

const MOST = 3
const MINUTE = 60_000
const session = useSession()
const router = useRouter()
const now = ref(session.now())
useIntervalFn(() => (now.value = session.now()), 10_000)
const zone = computed(() => session.person?.zone ?? 'UTC')
const shown = computed(() => props.given.slice(0, MOST))
const more = computed(() => props.given.slice(MOST))

const DAY_WORDS = { plan: 'Time to plan the day', review: 'Time to look back on the day' }
const titleOf = (g: GivenReminder): string =>
  g.kind === 'plan' || g.kind === 'review' ? DAY_WORDS[g.kind] : g.title
/** `begins 08:15, in 10 min`. */
function whenOf({ kind, aboutMs, location }: GivenReminder): string {
  if (kind === 'plan' || kind === 'review') return ''
  const date = dayAt(aboutMs, zone.value)
  const day = date === dayAt(now.value, zone.value) ? '' : `${dayWords(date)} `
  const minutes = Math.round((aboutMs - now.value) / MINUTE)
  const begins = minutes < 0 ? 'began' : 'begins'
  const says = kind === 'due' ? 'due' : kind === 'block' ? 'planned' : begins
  const apart =
    minutes === 0
      ? 'now'
      : minutes > 0 && minutes < 90
        ? `in ${minutes} min`
        : minutes < 0
          ? `${-minutes} min ago`
          : ''
  const place = location === '' ? '' : ` · ${location}`
  return `${says} ${day}${clockWords(aboutMs, zone.value)}${apart === '' ? '' : `, ${apart}`}${place}`
}
function open(g: GivenReminder): void {
  emit('done', [g.id])
  const at = dayAt(g.aboutMs, zone.value)
  void router.push(
    g.key === ''
      ? '/day'
      : g.kind === 'window'
        ? { path: '/cloth', query: { at } }
        : { path: '/cloth', query: { at, item: g.key } },
  )
}
const LATER = 0
function laterChoices(g: GivenReminder): { value: number; label: string }[] {
  const ahead = g.aboutMs - now.value
  const fixed = [5, 15, 60].map(m => ({ value: m * MINUTE, label: `in ${m === 60 ? '1 h' : `${m} min`}` }))
  return [
    { value: LATER, label: 'later' },
    ...(ahead > MINUTE && g.kind !== 'due' ? [{ value: ahead, label: 'when it begins' }] : []),
    ...fixed,
  ]
}
</script>

<template>
  <aside class="reminders" aria-label="Reminders" aria-live="polite">
    <article v-for="g in shown" :key="`${g.id} ${g.round}`" class="card" :class="g.kind">
      <button type="button" class="plain what" @click="open(g)">{{ titleOf(g) }}</button>
      <span class="when">{{ whenOf(g) }}</span>
      <span class="acts">
        <button
          type="button"
          class="push small"
          :aria-label="`Done with ${titleOf(g)}`"
          @click="emit('done', [g.id])"
        >
          Done
        </button>
        <SentenceChoice
          :name="`Remind me of ${titleOf(g)} again`"
          :options="laterChoices(g)"
          :model-value="LATER"
          @update:model-value="ms => ms !== LATER && emit('later', g.id, now + ms)"
        />
      </span>
    </article>
    <p v-if="more.length > 0" class="card rest">
      {{ more.length }} more
      <button
        type="button"
        class="plain"
        @click="
          emit(
            'done',
            given.map(g => g.id),
          )
        "
      >
        Done with all
      </button>
    </p>
  </aside>
</template>

<style scoped>
/* One line each, at the foot of the page: it covers as little as can be of what one works on. */
.reminders {
  position: fixed;
  z-index: 40;
  left: 14px;
  bottom: 10px;
  max-width: min(640px, calc(100vw - 28px));
  display: grid;
  gap: 5px;
  font-size: 13.5px;
}
.card {
  margin: 0;
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 2px 12px;
  padding: 5px 12px;
  background: var(--amber-wash);
  color: var(--peat);
  border-left: 4px double var(--amber);
  box-shadow: var(--float);
}
.card.due {
  background: var(--clay-wash);
  border-left-color: var(--clay);
}
.what {
  text-align: left;
  font-weight: 700;
  overflow-wrap: anywhere;
}
.what:hover {
  text-decoration: underline;
}
.acts {
  display: flex;
  align-items: center;
  gap: 12px;
  margin-left: auto;
}
</style>
