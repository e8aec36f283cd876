<script setup lang="ts">
import { durationWords, MINUTE } from '@loom/core/view'
import { minutesOf } from '@loom/core/ledger'
import { useQuery } from '@pinia/colada'
import { Button, InputNumber } from 'ant-design-vue'
import { computed, nextTick, ref, useTemplateRef, watch } from 'vue'
import { answer, api } from '../../api/client.ts'
import { type Entry, useEntries } from '../../stores/time.ts'
import { useSession } from '../../stores/session.ts'
import { useAttempt } from '../../ui/attempt.ts'
import { clockWords } from '../../ui/telling.ts'
import { dayWords } from '@loom/core/view'
import type { Opened } from './report.ts'

/** What a figure is made of: entries, which can be corrected, confirmed and removed. */
const props = defineProps<{ of: Opened }>()
const emit = defineEmits<{ close: [] }>()
const session = useSession()
const zone = computed(() => session.person?.zone ?? 'UTC')
const query = useQuery({
  key: () => ['time', 'entries', JSON.stringify(props.of)],
  query: () => {
    const { title: _, ...asked } = props.of
    return answer(() => api.time.entries.$get({ query: asked }))
  },
})
const entries = computed(() => query.data.value?.entries ?? [])
const total = computed(() => entries.value.reduce((x, e) => x + e.counted, 0))
const assumed = computed(() => entries.value.filter(e => e.assumed))
const { change, remove, confirm } = useEntries()
const { attempt, busy, reason } = useAttempt()
/** Which one's length is being corrected. */
const corrected = ref<string | null>(null)

const SOURCES: Record<Entry['source'], string> = {
  hand: 'by hand',
  clock: 'by the clock',
  worked: 'planned and worked',
  attended: 'meeting',
}
const whenOf = ({ time, day }: Entry): string =>
  'fromMs' in time
    ? `${dayWords(day)}, ${clockWords(time.fromMs, zone.value)}–${clockWords(time.toMs, zone.value)}`
    : dayWords(day)
function correct(entry: Entry, minutes: number | null): void {
  corrected.value = null
  if (minutes === null || minutes === minutesOf(entry.time)) return
  const time =
    'fromMs' in entry.time
      ? { fromMs: entry.time.fromMs, toMs: entry.time.fromMs + minutes * MINUTE }
      : { minutes }
  void attempt(() => change(entry, { time, day: entry.day }))
}
const heading = useTemplateRef<HTMLElement>('heading')
watch(
  () => props.of,
  () => void nextTick(() => heading.value?.focus()),
  { immediate: true },
)
</script>

<template>
  <section class="sheet list" :aria-label="of.title" @keydown.esc="emit('close')">
    <header>
      <h2 ref="heading" tabindex="-1">{{ of.title }}</h2>
      <span class="quiet">{{ query.data.value ? durationWords(total) : '' }}</span>
      <span class="spacer" />
      <Button
        v-if="assumed.length > 1"
        size="small"
        :loading="busy"
        @click="attempt(() => confirm(assumed.map(e => e.id)))"
        >Confirm all {{ assumed.length }}</Button
      >
      <Button size="small" @click="emit('close')">Close</Button>
    </header>
    <p v-if="reason" class="wrong" role="alert">{{ reason }}</p>
    <p v-if="query.error.value" class="wrong" role="alert">{{ query.error.value.message }}</p>
    <p v-else-if="query.data.value && entries.length === 0" class="quiet">There is nothing here any more.</p>
    <ul>
      <li v-for="e in entries" :key="e.id">
        <span class="what">
          <RouterLink v-if="e.about.key" :to="{ path: '/cloth', query: { item: e.about.key } }">{{
            e.about.title
          }}</RouterLink>
          <b v-else>{{ e.about.title }}</b>
          <span class="quiet">{{ [e.about.list, e.about.category].filter(Boolean).join(' · ') }}</span>
        </span>
        <span>{{ whenOf(e) }}</span>
        <span class="quiet">{{ SOURCES[e.source] }}{{ e.assumed ? ', assumed' : '' }}</span>
        <span class="minutes">
          <InputNumber
            v-if="corrected === e.id"
            size="small"
            autofocus
            :default-value="minutesOf(e.time)"
            :min="1"
            :max="1440"
            aria-label="Minutes"
            @press-enter="ev => correct(e, Number((ev.target as HTMLInputElement).value) || null)"
            @blur="ev => correct(e, Number((ev.target as HTMLInputElement).value) || null)"
          />
          <button
            v-else
            type="button"
            class="plain link"
            :title="
              e.counted === minutesOf(e.time)
                ? 'Correct it'
                : `${durationWords(minutesOf(e.time))}, part of which counts elsewhere. Correct it`
            "
            @click="corrected = e.id"
          >
            {{ durationWords(e.counted)
            }}{{ e.counted === minutesOf(e.time) ? '' : ` of ${durationWords(minutesOf(e.time))}` }}
          </button>
        </span>
        <span class="acts">
          <button v-if="e.assumed" type="button" class="plain link" @click="attempt(() => confirm([e.id]))">
            Confirm
          </button>
          <button type="button" class="plain link" @click="attempt(() => remove(e))">Remove</button>
        </span>
      </li>
    </ul>
  </section>
</template>

<style scoped>
.list {
  margin-top: 14px;
  padding: 10px 12px;
}
header {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 10px;
  align-items: baseline;
}
h2:focus {
  outline: none;
}
.spacer {
  flex: 1;
}
ul {
  list-style: none;
  margin: 6px 0 0;
  padding: 0;
  max-height: 340px;
  overflow: auto;
}
li {
  display: grid;
  grid-template-columns: minmax(0, 3fr) minmax(170px, 2fr) minmax(130px, 1fr) 110px 130px;
  gap: 10px;
  padding: 5px 0;
  border-top: 1px solid var(--warp);
  align-items: baseline;
}
.what {
  display: flex;
  gap: 8px;
  flex-wrap: wrap;
  min-width: 0;
}
.what .quiet {
  font-size: 13px;
}
.minutes {
  text-align: right;
}
.acts {
  display: flex;
  gap: 12px;
  justify-content: flex-end;
}
.link {
  color: var(--amber);
  text-decoration: underline;
}
.wrong {
  color: var(--clay);
  margin: 6px 0;
}
@media (max-width: 800px) {
  li {
    grid-template-columns: minmax(0, 1fr) auto;
  }
}
</style>
