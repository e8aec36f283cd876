<script setup lang="ts">
import { dayWords, instantDayWords, type Level, LEVEL_WORDS } from '@loom/core/view'
import { useQuery } from '@pinia/colada'
import { refDebounced } from '@vueuse/core'
import { Button, Input } from 'ant-design-vue'
import { computed, ref, watch } from 'vue'
import type { InferResponseType } from 'hono/client'
import { answer, api } from '../../api/client.ts'
import { useSession } from '../../stores/session.ts'
import { useAttempt } from '../../ui/attempt.ts'
import PickOne from '../../ui/PickOne.vue'
import { clockWords } from '../../ui/telling.ts'
import TeamTabs from './TeamTabs.vue'

type Told = InferResponseType<typeof api.sharing.$get, 200>
type Log = InferResponseType<typeof api.sharing.log.$get, 200>['lines'][number]

/** What was said about items, who shared what with whom and who looked as whom: newest first, looked through by words. */
const session = useSession()
const load = (before: number | null) =>
  answer(() => api.sharing.log.$get({ query: before === null ? {} : { before: String(before) } }))
const query = useQuery({ key: ['team', 'sharing-log'], query: () => load(null) })
/** What came before the newest hundred, as far as it was asked for. */
const earlier = ref<Awaited<ReturnType<typeof load>>[]>([])
const pages = computed(() => (query.data.value ? [query.data.value, ...earlier.value] : []))
const hasMore = computed(() => pages.value.at(-1)?.more === true)
const { busy, attempt } = useAttempt()
const goBack = (): Promise<boolean> =>
  attempt(async () => {
    earlier.value.push(await load(pages.value.at(-1)?.lines.at(-1)?.id ?? null))
  })
const sharing = useQuery({ key: ['team', 'sharing'], query: () => answer(() => api.sharing.$get()) })
const zone = computed(() => session.person?.zone ?? 'UTC')
const words = ref('')
const wanted = refDebounced(words, 250)
const said = useQuery({
  key: () => ['journal', 'said', wanted.value],
  query: () => answer(() => api.comments.$get({ query: { q: wanted.value } })),
  placeholderData: before => before,
})
const kind = ref<'all' | 'said' | 'shared' | 'rules'>('all')
const KINDS = [
  { value: 'all', label: 'Everything' },
  { value: 'said', label: 'Comments' },
  { value: 'shared', label: 'Sharing' },
  { value: 'rules', label: 'Rules' },
] as const

function whomOf(told: Told | undefined, to: string): string {
  const [kind, id] = to.split(' ')
  if (kind === 'everybody') return 'everybody'
  if (kind === 'link') return `whoever has the link “${to.slice('link '.length)}”`
  const names = kind === 'group' ? told?.groups : told?.people
  return (
    names?.find(n => n.id === id)?.name ??
    (kind === 'group' ? 'a group that is gone' : 'somebody who has left')
  )
}
const seen = (level: Level | null): string =>
  level === null ? 'no word of their own' : LEVEL_WORDS[level].name
function wordsOf({ body, list }: Log): string {
  if (body.do === 'see-as') return `looked at the Cloth as ${body.whom} sees it`
  if (body.do === 'link')
    return body.isEnded
      ? `ended the address for ${body.name}`
      : `made an address for ${body.name}, who sees ${LEVEL_WORDS[body.level].name}`
  if (body.do === 'lens')
    return body.level === null
      ? `closed to ${whomOf(sharing.data.value, body.to)} what the view ${body.view} opened`
      : `opened ${LEVEL_WORDS[body.level].name} of what the view ${body.view} shows to ${whomOf(sharing.data.value, body.to)}`
  if (body.do === 'deputy')
    return body.whom === null
      ? 'needs no deputy any more'
      : `named ${body.whom} as deputy from ${dayWords(body.from)} to ${dayWords(body.to)}`
  if (body.do === 'rule') return `${body.did} the rule ${body.name}`
  if (body.do === 'group')
    return body.members === null
      ? `dissolved the group ${body.name}`
      : `put ${body.members} ${body.members === 1 ? 'person' : 'people'} in the group ${body.name}`
  return `shared ${list ?? ''} with ${whomOf(sharing.data.value, body.to)}: ${seen(body.level)}${body.passOn ? ', to pass on' : ''}, before ${seen(body.before)}`
}

interface Line {
  key: string
  at: number
  who: string
  what: string
  isOfRule: boolean
  /** The item that was spoken of. */
  item: { key: string; title: string; place: string } | null
}
const lines = computed((): Line[] => {
  // What is new moves the newest hundred on: a line may stand in two pages then.
  const byId = new Map(pages.value.flatMap(p => p.lines).map(l => [l.id, l]))
  const shared = [...byId.values()].map((l): Line => ({
    key: `s${l.id}`,
    at: l.at,
    who: l.who,
    what: wordsOf(l),
    isOfRule: l.body.do === 'rule',
    item: null,
  }))
  const text = wanted.value.trim().toLowerCase()
  const hit = shared.filter(
    l =>
      `${l.who} ${l.what}`.toLowerCase().includes(text) &&
      (kind.value === 'all' || (kind.value === 'rules') === l.isOfRule),
  )
  const comments = (said.data.value?.lines ?? []).map((c): Line => ({
    key: `c${c.id}`,
    at: c.made_at,
    who: c.who,
    what: c.body,
    isOfRule: false,
    item: { key: c.mirror_id, title: c.title || 'Untitled', place: c.place },
  }))
  return [
    ...(kind.value === 'said' ? [] : hit),
    ...(kind.value === 'all' || kind.value === 'said' ? comments : []),
  ].sort((a, b) => b.at - a.at)
})
/** So many pages are looked through for words by themselves. */
const MOST_PAGES = 30
const ENOUGH = 20
const isWanting = (): boolean =>
  wanted.value.trim() !== '' && kind.value !== 'said' && lines.value.length < ENOUGH
watch([wanted, kind], async () => {
  while (isWanting() && hasMore.value && !busy.value && earlier.value.length < MOST_PAGES)
    if (!(await goBack())) return
})
const isLoaded = computed(() => query.data.value !== undefined && said.data.value !== undefined)
</script>

<template>
  <main class="page">
    <div class="page-head">
      <h1>Team</h1>
      <span class="quiet">What was said, shared and changed about rules, of what is yours to know.</span>
    </div>
    <TeamTabs />
    <p v-if="query.error.value" role="alert">{{ query.error.value.message }}</p>
    <div class="find">
      <Input v-model:value="words" allow-clear placeholder="Words, or a name" aria-label="Look through it" />
      <PickOne v-model="kind" name="What" :options="KINDS" />
    </div>
    <ol class="sheet lines">
      <li v-for="l in lines" :key="l.key">
        <span class="quiet">{{ instantDayWords(l.at, zone) }} {{ clockWords(l.at, zone) }}</span>
        <span v-if="l.item"
          ><b>{{ l.who }}</b> about
          <RouterLink :to="{ path: '/cloth', query: { item: l.item.key } }">{{ l.item.title }}</RouterLink>
          <span class="quiet"> · {{ l.item.place }}</span>
          <q>{{ l.what }}</q></span
        >
        <span v-else
          ><b>{{ l.who }}</b> {{ l.what }}</span
        >
      </li>
      <li v-if="isLoaded && lines.length === 0" class="quiet none">
        {{
          wanted.trim()
            ? 'Nothing has these words.'
            : 'Nobody has said or shared anything yet. What is said about an item stands in its drawer, and here.'
        }}
      </li>
      <li v-if="hasMore && kind !== 'said'" class="none">
        <Button :loading="busy" @click="goBack">Earlier</Button>
      </li>
    </ol>
  </main>
</template>

<style scoped>
.lines {
  margin: 0;
  padding: 4px 0;
  list-style: none;
}
li {
  display: grid;
  grid-template-columns: 150px 1fr;
  gap: 12px;
  padding: 7px 14px;
}
li + li {
  border-top: 1px solid var(--warp);
}
.find {
  display: flex;
  flex-wrap: wrap;
  gap: 10px 16px;
  align-items: center;
  margin-bottom: 10px;
}
.find :deep(.ant-input-affix-wrapper) {
  width: min(320px, 100%);
}
q {
  display: block;
  margin-top: 2px;
  white-space: pre-wrap;
  overflow-wrap: anywhere;
  quotes: none;
}
li.none {
  display: block;
}
@media (max-width: 620px) {
  li {
    grid-template-columns: minmax(0, 1fr);
    gap: 2px;
  }
}
</style>
