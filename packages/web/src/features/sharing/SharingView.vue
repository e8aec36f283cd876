<script setup lang="ts">
import { type Level, LEVEL_WORDS, LEVELS } from '@loom/core/view'
import { useQuery } from '@pinia/colada'
import { computed, ref, watch } from 'vue'
import { answer, api } from '../../api/client.ts'
import { say } from '../../stores/messages.ts'
import { useAttempt } from '../../ui/attempt.ts'
import { askedWords } from '../team/asks.ts'
import TeamTabs from '../team/TeamTabs.vue'
import LevelSwatch from './LevelSwatch.vue'
import SharingDeputy from './SharingDeputy.vue'
import SharingGroups from './SharingGroups.vue'
import SharingLinks from './SharingLinks.vue'
import SharingMatrix from './SharingMatrix.vue'
import SharingSentence, { type Effect } from './SharingSentence.vue'
import { type Cell, cellKey, columnsOf, type Said, saidOf } from './sharing.ts'

/** Who sees what: set by click or key, several at once, and counted before it is saved. */
const query = useQuery({ key: ['team', 'sharing'], query: () => answer(() => api.sharing.$get()) })
const told = computed(() => query.data.value)
const chosen = ref<Cell[]>([])
const changed = ref(new Map<string, Said>())
const effect = ref<Effect | null>(null)
const { busy, reason, attempt } = useAttempt()

type Changes = Parameters<typeof api.sharing.$put>[0]['json']
const changes = computed((): Changes['changes'] => {
  const columns = told.value ? columnsOf(told.value) : []
  return [...changed.value].flatMap(([key, said]) => {
    const [list = '', ...rest] = key.split(' ')
    const column = columns.find(c => c.key === rest.join(' '))
    return column ? [{ list, to: column.to, ...said }] : []
  })
})
/** Of all that is chosen. */
function set(how: (now: Said, isLink: boolean) => Said): void {
  const next = new Map(changed.value)
  const columns = told.value ? columnsOf(told.value) : []
  for (const cell of chosen.value) {
    const list = told.value?.lists.find(l => l.id === cell.list)
    const column = columns.find(c => c.key === cell.column)
    if (!list || !column) continue
    next.set(cellKey(cell), how(next.get(cellKey(cell)) ?? saidOf(list, column), column.to.kind === 'link'))
  }
  changed.value = next
}
const setLevel = (level: Level | null): void =>
  set(({ passOn }, isLink) => ({
    // Whoever has a link looks, and changes nothing.
    level: level === 'change' && isLink ? 'everything' : level,
    passOn: passOn && level !== null && level !== 'nothing',
  }))
const setPassOn = (passOn: boolean): void =>
  set((now, isLink) => ({
    ...now,
    passOn: passOn && !isLink && now.level !== null && now.level !== 'nothing',
  }))
watch(changes, async now => {
  effect.value = null
  if (now.length === 0) return
  await attempt(async () => {
    const found = await answer(() => api.sharing.effect.$post({ json: { changes: now } }))
    // Another change may have been made meanwhile.
    if (changes.value === now) effect.value = found
  })
})
async function takeBack(before: Changes): Promise<void> {
  const isDone = await attempt(async () => {
    const done = await put(before)
    if ('reason' in done) say({ text: askedWords(done.asked) })
  })
  if (isDone) await query.refetch()
  else say({ text: `Not taken back. ${reason.value}`, tone: 'wrong' })
}
const put = (json: Changes) => answer(() => api.sharing.$put({ json }))
async function save(): Promise<void> {
  const sent = changes.value
  const isDone = await attempt(async () => {
    const done = await put({ changes: sent })
    if ('reason' in done) return say({ text: askedWords(done.asked) })
    const { changes, asBefore } = done
    say({
      text: sent.length === 1 ? 'Shared as you said.' : `${sent.length} places shared as you said.`,
      undo: () => void takeBack({ changes, asBefore }),
    })
  })
  if (!isDone) return
  changed.value = new Map()
  await query.refetch()
}
</script>

<template>
  <main class="page">
    <div class="page-head">
      <h1>Team</h1>
      <span class="quiet">Rows: what you own or look after. Columns: who looks.</span>
    </div>
    <TeamTabs />
    <p v-if="query.error.value" role="alert">{{ query.error.value.message }}</p>
    <template v-if="told">
      <ul class="legend" aria-label="Levels">
        <li v-for="l in LEVELS" :key="l" :title="LEVEL_WORDS[l].shows">
          <LevelSwatch :level="l" /> {{ LEVEL_WORDS[l].name }}
        </li>
      </ul>
      <p v-if="told.lists.length === 0" class="sheet empty">
        You own no list or calendar here yet.
        <RouterLink to="/connections/new">Connect a service</RouterLink>, and say here who sees what of it.
      </p>
      <div v-else class="beside">
        <SharingMatrix v-model:chosen="chosen" :told="told" :changed="changed" @level="setLevel" />
        <div class="side">
          <SharingSentence
            :told="told"
            :chosen="chosen"
            :changed="changed"
            :effect="effect"
            :busy="busy"
            :reason="reason"
            @level="setLevel"
            @pass-on="setPassOn"
            @save="save"
            @cancel="changed = new Map()"
          />
        </div>
      </div>
      <div class="below">
        <SharingGroups :told="told" />
        <SharingLinks :told="told" />
        <SharingDeputy :told="told" />
      </div>
    </template>
  </main>
</template>

<style scoped>
.legend {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 18px;
  margin: 0 0 12px;
  padding: 0;
  list-style: none;
  color: var(--husk);
}
.legend li {
  display: flex;
  align-items: center;
  gap: 8px;
}
.legend :deep(.swatch) {
  width: 38px;
  height: 15px;
}
.beside {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 300px;
  gap: 12px;
  align-items: start;
}
.side {
  display: grid;
  gap: 12px;
}
.below {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(min(320px, 100%), 1fr));
  gap: 12px;
  align-items: start;
  margin-top: 12px;
}
.empty {
  padding: 18px;
}
@media (max-width: 980px) {
  .beside {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
