<script setup lang="ts">
import { clockWords, dayAt, longDayWords, whole } from '@loom/core/view'
import { useQuery } from '@pinia/colada'
import { useIntervalFn } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import { answer, api, Refused } from '../../api/client.ts'
import LoomMark from '../../ui/LoomMark.vue'
import { linkToken } from '../entry/link-token.ts'
import { wallDay } from './wall-day.ts'

/**
 * What is now, next and ahead today, for each person: for a screen on a wall that nobody touches, or a frame in another
 * page. It asks again by itself, and says when it could not.
 */
const headers = { 'Loom-Link': linkToken() }
const zone = Intl.DateTimeFormat().resolvedOptions().timeZone || 'UTC'
const AGAIN_MS = 60_000
const AHEAD = 4

/** The server's clock decides what today is: that of a screen on a wall may be off. */
const offset = ref(0)
const now = ref(Date.now())
useIntervalFn(() => (now.value = Date.now() + offset.value), 5_000)
const query = useQuery({
  key: () => ['wall', dayAt(now.value, zone)],
  query: () => {
    const from = dayAt(now.value, zone)
    return answer(() => api.guest.$get({ query: { from, days: '1', zone } }, { headers }))
  },
})
useIntervalFn(() => void query.refetch().catch(() => undefined), AGAIN_MS)
watch(
  () => query.data.value?.nowMs,
  nowMs => {
    if (nowMs === undefined) return
    offset.value = nowMs - Date.now()
    now.value = nowMs
  },
)
const ended = computed(() => query.error.value instanceof Refused && query.error.value.status === 404)
const told = computed(() => (ended.value ? undefined : query.data.value))
const people = computed(() => {
  const { items = [], people: all = [] } = told.value ?? {}
  return wallDay(
    items.map(i => whole(i)),
    all,
    now.value,
    zone,
  )
})
const clock = (ms: number): string => clockWords(ms, zone, '24')
</script>

<template>
  <main class="wall" :style="{ '--scale': people.length <= 3 ? 1.6 : people.length <= 6 ? 1.25 : 1 }">
    <header>
      <LoomMark :size="34" />
      <h1>{{ told?.workspace ?? 'Amber Loom' }}</h1>
      <span class="date">{{ longDayWords(dayAt(now, zone)) }}</span>
      <span class="clock">{{ clock(now) }}</span>
    </header>
    <p v-if="query.error.value" class="trouble" role="alert">
      {{ ended ? query.error.value.message : 'Not reached just now: this is as it was.' }}
    </p>
    <div class="people">
      <section v-for="p in people" :key="p.id" :class="{ free: !p.now }" :aria-label="p.name">
        <h2>{{ p.name }}</h2>
        <p v-for="d in p.wholeDay" :key="d" class="day">{{ d }}</p>
        <p class="now">
          <template v-if="p.now"
            ><b>{{ p.now.title }}</b> <span>until {{ clock(p.now.toMs) }}</span></template
          >
          <template v-else-if="p.ahead[0]">free until {{ clock(p.ahead[0].fromMs) }}</template>
          <template v-else>free for the rest of today</template>
        </p>
        <ol v-if="p.ahead.length > 0">
          <li v-for="a in p.ahead.slice(0, AHEAD)" :key="a.key">
            <span class="at">{{ clock(a.fromMs) }}</span> {{ a.title }}
          </li>
        </ol>
        <p v-if="p.ahead.length > AHEAD" class="more">and {{ p.ahead.length - AHEAD }} more</p>
      </section>
    </div>
  </main>
</template>

<style scoped>
.wall {
  min-height: 100vh;
  box-sizing: border-box;
  padding: 1.2em 1.6em;
  /* Read from afar: the fewer there are, the larger. */
  font-size: clamp(14px, calc(var(--scale) * 1.25vw), 40px);
}
header {
  display: flex;
  align-items: center;
  gap: 0.7em;
  flex-wrap: wrap;
  margin-bottom: 1em;
}
h1 {
  font-size: 1.5em;
  flex: 1;
}
.date {
  color: var(--husk);
}
.clock {
  font:
    700 2em 'Bricolage Grotesque Variable',
    sans-serif;
  font-variant-numeric: tabular-nums;
}
.people {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(min(17em, 100%), 1fr));
  gap: 0.9em;
}
section {
  background: var(--cloth);
  border: 1px solid var(--warp);
  border-top: 5px double var(--amber);
  padding: 0.7em 0.9em 0.9em;
  overflow-wrap: anywhere;
}
section.free {
  border-top-color: var(--moss);
}
h2 {
  font-size: 1.1em;
  margin: 0 0 0.3em;
}
p {
  margin: 0 0 0.4em;
}
.now {
  font-size: 1.1em;
}
.now span,
.more,
.day {
  color: var(--husk);
}
.free .now {
  color: var(--moss);
}
ol {
  list-style: none;
  margin: 0;
  padding: 0.4em 0 0;
  border-top: 1px solid var(--warp);
}
li {
  padding: 0.12em 0;
}
.at {
  display: inline-block;
  min-width: 3.2em;
  font-variant-numeric: tabular-nums;
  color: var(--husk);
}
.trouble {
  padding: 0.5em 0.8em;
  background: var(--clay-wash);
  color: var(--clay);
}
</style>
