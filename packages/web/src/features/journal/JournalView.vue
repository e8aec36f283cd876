<script setup lang="ts">
import { PhArrowRight } from '@phosphor-icons/vue'
import { FIELD_WORDS, instantDayWords, reasonWords, valueWords } from '@loom/core/view'
import { useQuery } from '@pinia/colada'
import { Button } from 'ant-design-vue'
import { computed, ref, watch } from 'vue'
import { answer, api } from '../../api/client.ts'
import { useSession } from '../../app/session.ts'
import JournalFilter from './JournalFilter.vue'
import { useWanted } from './use-wanted.ts'

const session = useSession()
const zone = computed(() => session.person?.zone ?? 'UTC')

const { wanted, isAll, all } = useWanted()
const load = (before?: number) =>
  answer(() =>
    api.journal.$get({
      query: { ...wanted.value, ...(before === undefined ? {} : { before: String(before) }) },
    }),
  )
type Line = Awaited<ReturnType<typeof load>>['lines'][number]

const query = useQuery({ key: () => ['journal', wanted.value], query: () => load() })
const older = ref<Line[]>([])
const reachedEnd = ref(false)
watch(wanted, () => {
  older.value = []
  reachedEnd.value = false
})
const lines = computed(() => {
  const newest = query.data.value?.lines ?? []
  const last = newest.at(-1)?.id ?? 0
  return [...newest, ...older.value.filter(l => l.id < last)]
})
const more = computed(() => !reachedEnd.value && (query.data.value?.more ?? false))

async function fetchOlder(): Promise<void> {
  const page = await load(lines.value.at(-1)?.id)
  older.value = [...older.value, ...page.lines]
  reachedEnd.value = !page.more
}

const days = computed(() => {
  const groups: { day: string; lines: Line[] }[] = []
  for (const line of lines.value) {
    const day = instantDayWords(line.at, zone.value)
    const last = groups.at(-1)
    if (last && last.day === day) last.lines.push(line)
    else groups.push({ day, lines: [line] })
  }
  return groups
})

const seconds = (at: number): string =>
  new Intl.DateTimeFormat('en-IE', { timeZone: zone.value, timeStyle: 'medium', hour12: false }).format(at)

const OPS: Record<Line['op'], string> = {
  create: 'made',
  patch: 'changed',
  delete: 'removed',
  override: 'overridden',
}
const opWords = (line: Line): string => (line.outcome === 'refused' ? `not ${OPS[line.op]}` : OPS[line.op])
/** Of something new, empty fields say nothing. */
const fields = (line: Line) =>
  line.fields.filter(
    f => line.op !== 'create' || (f.after !== '' && f.field !== 'completion' && f.field !== 'title'),
  )
</script>

<template>
  <main class="page">
    <div class="page-head">
      <h1>Journal</h1>
      <span class="quiet"
        >Every write to a connected service: when, where, why, and what stood there before.</span
      >
    </div>
    <JournalFilter />
    <p v-if="query.error.value" role="alert">{{ query.error.value.message }}</p>
    <div v-else-if="query.data.value && lines.length === 0 && !isAll" class="sheet empty" role="status">
      <h2>Nothing was written that fits this</h2>
      <p><button type="button" class="plain link" @click="all">Show all entries</button></p>
    </div>
    <div v-else-if="query.data.value && lines.length === 0" class="sheet empty">
      <h2>Nothing has been written yet</h2>
      <p>As soon as a rule or a person changes something at a service, it is written down here.</p>
    </div>
    <section v-for="g in days" :key="g.day" :aria-label="g.day">
      <h2>{{ g.day }}</h2>
      <ol class="sheet">
        <li v-for="line in g.lines" :key="line.id" :class="line.outcome">
          <time :datetime="new Date(line.at).toISOString()">{{ seconds(line.at) }}</time>
          <div class="what">
            <strong>{{ line.title }}</strong>
            <span class="op">{{ opWords(line) }}</span>
            <span class="quiet"
              >in {{ line.place }}
              <RouterLink v-if="line.item && !wanted.item" :to="{ query: { item: line.item } }"
                >its history<span class="visually-hidden">, {{ line.title }}</span></RouterLink
              ></span
            >
          </div>
          <div class="fields">
            <div v-for="f in fields(line)" :key="f.field">
              <span class="quiet">{{ FIELD_WORDS[f.field] }}</span>
              <s v-if="f.before !== null && f.before !== undefined">{{ valueWords(f.before, zone) }}</s>
              <template v-if="f.after !== null && f.after !== undefined">
                <PhArrowRight
                  v-if="f.before !== null && f.before !== undefined"
                  :size="12"
                  aria-label="now"
                />
                <span>{{ valueWords(f.after, zone) }}</span>
              </template>
            </div>
            <div v-if="line.reason" class="refusal">{{ line.reason }}</div>
          </div>
          <div class="why">
            {{ line.who ?? (line.rule ? `Rule ${line.rule}` : 'A rule since removed') }}
            <span class="quiet">{{ reasonWords(line.cause) }}</span>
          </div>
        </li>
      </ol>
    </section>
    <Button v-if="more" @click="fetchOlder">Show older entries</Button>
  </main>
</template>

<style scoped>
.empty {
  padding: 28px;
}
.link {
  color: var(--amber);
  text-decoration: underline;
}
section h2 {
  margin: 14px 0 8px;
  font-size: 15px;
}
ol {
  list-style: none;
  margin: 0;
  padding: 0;
}
li {
  display: grid;
  grid-template-columns: 66px minmax(0, 1.25fr) minmax(0, 1.5fr) minmax(0, 1.15fr);
  gap: 14px;
  padding: 8px 14px;
  font-size: 13px;
}
li + li {
  border-top: 1px solid var(--warp);
}
time {
  color: var(--husk);
}
.what {
  display: flex;
  flex-wrap: wrap;
  gap: 0 7px;
  align-content: start;
}
.what strong {
  font-size: 14px;
}
.what .quiet {
  flex-basis: 100%;
}
.op {
  font-weight: 700;
  color: var(--moss);
}
.refused .op,
.overridden .op,
.refusal {
  color: var(--clay);
}
.fields > div {
  overflow-wrap: anywhere;
}
.fields svg {
  margin: 0 6px;
  vertical-align: -1px;
}
.fields .quiet {
  display: inline-block;
  min-width: 76px;
}
.why .quiet {
  display: block;
}
@media (max-width: 800px) {
  li {
    grid-template-columns: 66px minmax(0, 1fr);
  }
  .fields,
  .why {
    grid-column: 2;
  }
}
</style>
