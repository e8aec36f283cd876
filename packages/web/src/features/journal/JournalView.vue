<script setup lang="ts">
import { clock, valueWords } from '../../ui/telling.ts'
import { PhArrowRight } from '@phosphor-icons/vue'
import { FIELD_WORDS, instantDayWords, reasonWords, secondWords } from '@loom/core/view'
import { useQuery } from '@pinia/colada'
import { Button } from 'ant-design-vue'
import { computed, ref, watch } from 'vue'
import { answer, api } from '../../api/client.ts'
import { useSession } from '../../stores/session.ts'
import JournalFilter from './JournalFilter.vue'
import { olderLines } from './older-lines.ts'
import PutBack from './PutBack.vue'
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
watch(
  () => query.data.value?.lines ?? [],
  (newest, before) => {
    if (older.value.length === 0) return
    older.value = olderLines(newest, { newest: before, older: older.value })
    if (older.value.length === 0) reachedEnd.value = false
  },
  // Before anything is drawn of it.
  { flush: 'sync' },
)
const lines = computed(() => [...(query.data.value?.lines ?? []), ...older.value])
const more = computed(() => !reachedEnd.value && (query.data.value?.more ?? false))

async function fetchOlder(): Promise<void> {
  const [of, last] = [wanted.value, lines.value.at(-1)?.id]
  const page = await load(last)
  if (wanted.value !== of) return
  // The last entry has moved up meanwhile.
  if (lines.value.at(-1)?.id !== last) return fetchOlder()
  older.value = [...older.value, ...page.lines]
  reachedEnd.value = !page.more
}

/** Entries that are to be put back; the window shows what that would do. */
const puttingBack = ref<number[] | null>(null)
async function putBackPass(pass: string): Promise<void> {
  puttingBack.value = (await answer(() => api.journal.pass[':id'].$get({ param: { id: pass } }))).entries
}

interface Pass {
  id: string | null
  lines: Line[]
}
/** By day, and within it by the pass that wrote them: what a rule did in one go stands together. */
const days = computed(() => {
  const groups: { day: string; passes: Pass[] }[] = []
  for (const line of lines.value) {
    const day = instantDayWords(line.at, zone.value)
    let group = groups.at(-1)
    if (group?.day !== day) groups.push((group = { day, passes: [] }))
    const last = group.passes.at(-1)
    if (last && line.pass !== null && last.id === line.pass) last.lines.push(line)
    else group.passes.push({ id: line.pass, lines: [line] })
  }
  return groups
})

const seconds = (at: number): string => secondWords(at, zone.value, clock.value)

const OPS: Record<Line['op'], string> = {
  create: 'made',
  patch: 'changed',
  delete: 'removed',
  override: 'overridden',
}
const opWords = (line: Line): string => (line.outcome === 'refused' ? `not ${OPS[line.op]}` : OPS[line.op])
/** Of something new, empty fields say nothing. */
const saysNothing = (value: unknown): boolean =>
  value === '' || value === null || value === undefined || (Array.isArray(value) && value.length === 0)
const fields = (line: Line) =>
  line.fields.filter(
    f => line.op !== 'create' || (!saysNothing(f.after) && f.field !== 'completion' && f.field !== 'title'),
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
      <ol v-for="p in g.passes" :key="p.lines[0]?.id" class="sheet">
        <li v-if="p.lines.length > 1" class="pass">
          <span class="quiet">One run, {{ p.lines.length }} entries</span>
          <button
            v-if="p.id && p.lines.some(l => l.undoable)"
            type="button"
            class="plain link"
            @click="putBackPass(p.id)"
          >
            Undo this run
          </button>
        </li>
        <li v-for="line in p.lines" :key="line.id" :class="line.outcome">
          <time :datetime="new Date(line.at).toISOString()">{{ seconds(line.at) }}</time>
          <div class="what">
            <strong>{{ line.title }}</strong>
            <span class="op">{{ opWords(line) }}</span>
            <span class="quiet"
              >in {{ line.place }} ·
              <RouterLink v-if="line.item && !wanted.item" :to="{ query: { item: line.item } }"
                >History<span class="visually-hidden">, {{ line.title }}</span></RouterLink
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
            <span v-if="line.undoneAt" class="quiet">undone since</span>
            <button
              v-else-if="line.undoable"
              type="button"
              class="plain link"
              :aria-label="`Undo: ${line.title}`"
              @click="puttingBack = [line.id]"
            >
              Undo
            </button>
          </div>
        </li>
      </ol>
    </section>
    <Button v-if="more" @click="fetchOlder">Show older entries</Button>
    <PutBack v-if="puttingBack" :entries="puttingBack" :zone="zone" @close="puttingBack = null" />
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
  margin: 0 0 8px;
  padding: 0;
}
li.pass {
  display: flex;
  justify-content: space-between;
  background: var(--idle);
  padding-block: 4px;
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
/* A value that takes several lines stays beside its name. */
.fields > div:not(.refusal) {
  padding-left: 80px;
  text-indent: -80px;
}
.fields .quiet {
  display: inline-block;
  width: 76px;
  margin-right: 4px;
  text-indent: 0;
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
@media (max-width: 480px) {
  li {
    grid-template-columns: minmax(0, 1fr);
    gap: 6px;
  }
  .fields,
  .why {
    grid-column: 1;
  }
}
</style>
