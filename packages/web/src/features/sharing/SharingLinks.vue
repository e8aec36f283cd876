<script setup lang="ts">
import { dayAt, dayWords, type Level, LEVEL_WORDS } from '@loom/core/view'
import { useQuery } from '@pinia/colada'
import { Button, Input } from 'ant-design-vue'
import { computed, reactive, ref } from 'vue'
import { answer, api } from '../../api/client.ts'
import { say } from '../../stores/messages.ts'
import { useSession } from '../../stores/session.ts'
import { useAttempt } from '../../ui/attempt.ts'
import ChooseSome from '../../ui/ChooseSome.vue'
import SentenceChoice from '../../ui/SentenceChoice.vue'
import FeedDialog from './FeedDialog.vue'
import type { Told } from './sharing.ts'

/** Secret addresses for people without an account: a page of some lists, to look at. */
const props = defineProps<{ told: Told }>()
const session = useSession()
const query = useQuery({ key: ['team', 'links'], query: () => answer(() => api.links.$get()) })
const links = computed(() => query.data.value?.links ?? [])
const { busy, reason, attempt } = useAttempt()
const NO_VIEW = ''
const views = useQuery({ key: ['views'], query: () => answer(() => api.views.$get()) })
const VIEWS = computed(() => [
  { value: NO_VIEW, label: 'everything there' },
  ...(views.data.value?.views ?? []).map(v => ({ value: v.id, label: `what “${v.name}” shows` })),
])
const given = reactive({
  name: '',
  lists: [] as string[],
  level: 'title' as Exclude<Level, 'nothing' | 'change'>,
  weeks: 4,
  expires: 0,
  view: NO_VIEW,
})
const isFeeding = ref(false)
async function fed(): Promise<void> {
  isFeeding.value = false
  await query.refetch()
}
const READ_BY = {
  page: '',
  feed: 'read by calendar programs',
  availability: 'free and busy times',
  caldav: 'calendars (CalDAV)',
} as const
/** Shown once: only its hash is kept. */
const made = ref<{ name: string; link: string } | null>(null)

const LEVELS = (['busy', 'title', 'everything'] as const).map(value => ({
  value,
  label: LEVEL_WORDS[value].name,
}))
const WEEKS = [1, 2, 4, 8, 26].map(value => ({ value, label: value === 1 ? 'a week' : `${value} weeks` }))
const EXPIRES = [
  { value: 0, label: 'until it is ended' },
  { value: 7, label: 'for a week' },
  { value: 30, label: 'for 30 days' },
  { value: 365, label: 'for a year' },
]
const lists = computed(() =>
  props.told.lists
    .filter(l => !l.own && l.upTo === null)
    .map(l => ({ value: l.id, label: `${l.service} · ${l.name}` })),
)
const nameOf = (id: string): string => props.told.lists.find(l => l.id === id)?.name ?? ''
const chosen = computed(() => given.lists.map(nameOf).join(', ') || 'which lists')
const MOST_NAMES = 4
const shortened = (names: readonly string[]): string =>
  names.length > MOST_NAMES + 1
    ? `${names.slice(0, MOST_NAMES).join(', ')} and ${names.length - MOST_NAMES} more`
    : names.join(', ')
/** `titles of Festival; everything of House repairs`. */
function shownWords(shown: readonly { id: string; level: Level }[]): string {
  const of = (level: Level): string =>
    shortened(shown.flatMap(s => (s.level === level ? [nameOf(s.id)] : [])))
  const parts = LEVELS.flatMap(({ value, label }) => (of(value) ? [`${label} of ${of(value)}`] : []))
  return parts.join('; ') || 'nothing: choose its lists above'
}
const dayOf = (at: number): string => dayWords(dayAt(at, session.person?.zone ?? 'UTC'))

async function make(): Promise<void> {
  const { name } = given
  await attempt(async () => {
    const json = {
      ...given,
      opens: 'page' as const,
      expires: given.expires || null,
      view: given.level === 'busy' ? null : given.view || null,
    }
    made.value = { name, link: (await answer(() => api.links.$post({ json }))).link }
    Object.assign(given, { name: '', lists: [], view: NO_VIEW })
    await query.refetch()
  })
}
async function end(id: string, name: string): Promise<void> {
  if (!(await attempt(() => answer(() => api.links[':id'].$delete({ param: { id } }))))) return
  say({ text: `The address for ${name} opens nothing any more.` })
  await query.refetch()
}
/** The same secret opens what is now and next, for a screen on a wall. */
const wallOf = (link: string): string => link.replace('/guest#', '/wall#')
async function copy(link: string): Promise<void> {
  await navigator.clipboard.writeText(link)
  say({ text: 'Copied.' })
}
</script>

<template>
  <section class="sheet part">
    <div class="head">
      <h2>Links for guests</h2>
      <Button size="small" @click="isFeeding = true">For calendar programs…</Button>
    </div>
    <p class="quiet">
      A page for somebody without an account, in their zone; or what a calendar program subscribes to. Whoever
      has the address can pass it on.
    </p>
    <ul v-if="links.length > 0">
      <li v-for="l in links" :key="l.id">
        <span>
          <b>{{ l.name }}</b> sees {{ shownWords(l.lists)
          }}{{ l.view ? `, as far as “${l.view}” shows it` : '' }}
          <span class="quiet">
            <template v-if="READ_BY[l.opens]">· {{ READ_BY[l.opens] }}</template>
            · {{ l.weeks }} {{ l.weeks === 1 ? 'week' : 'weeks' }} ahead
            {{ l.expires_at ? ` · ends ${dayOf(l.expires_at)}` : '' }} ·
            {{ l.used_at ? `last opened ${dayOf(l.used_at)}` : 'not opened yet' }}
          </span>
        </span>
        <span class="acts">
          <RouterLink v-if="l.isMine" :to="{ path: '/guest', query: { as: l.id } }">See as</RouterLink>
          <Button size="small" :aria-label="`End the address for ${l.name}`" @click="end(l.id, l.name)"
            >End</Button
          >
        </span>
      </li>
    </ul>
    <div v-if="made" class="made">
      <label>
        The address for {{ made.name }}. It is shown only now.
        <Input :value="made.link" readonly aria-label="Address for the guest" />
      </label>
      <Button size="small" @click="copy(made.link)">Copy</Button>
      <Button
        size="small"
        title="What is now, next and ahead today, for each person: for a screen on a wall, or a frame in another page"
        @click="copy(wallOf(made.link))"
        >Copy it for a wall screen</Button
      >
    </div>
    <form class="new" @submit.prevent="make">
      <Input
        v-model:value="given.name"
        :maxlength="100"
        placeholder="Whom it is for"
        aria-label="Whom it is for"
      />
      <p class="sentence">
        They see
        <SentenceChoice v-model="given.level" name="What the guest sees" :options="LEVELS" />
        of <ChooseSome v-model="given.lists" name="Lists of the link" :label="chosen" :options="lists" />,
        <template v-if="given.level !== 'busy' && VIEWS.length > 1"
          ><SentenceChoice
            v-model="given.view"
            name="As far as a view shows it"
            :options="VIEWS"
          />, </template
        ><SentenceChoice v-model="given.weeks" name="How far ahead" :options="WEEKS" /> ahead,
        <SentenceChoice v-model="given.expires" name="How long it is valid" :options="EXPIRES" />; what is
        private is {{ given.view ? 'not there' : 'only busy' }}.
      </p>
      <Button
        html-type="submit"
        :loading="busy"
        :disabled="given.name.trim() === '' || given.lists.length === 0"
        >Make a link</Button
      >
    </form>
    <p v-if="reason" class="why" role="alert">{{ reason }}</p>
    <FeedDialog v-if="isFeeding" @close="fed" />
  </section>
</template>

<style scoped>
.part {
  padding: 14px 16px;
}
h2,
p {
  margin: 0 0 8px;
}
ul {
  display: grid;
  gap: 8px;
  margin: 0 0 12px;
  padding: 0;
  list-style: none;
}
li,
.made,
.head {
  display: flex;
  align-items: center;
  justify-content: space-between;
  gap: 8px;
}
.made {
  align-items: end;
  margin-bottom: 12px;
  padding: 10px 12px;
  background: var(--amber-wash);
}
.made label {
  display: grid;
  gap: 4px;
  flex: 1;
}
.acts {
  display: flex;
  align-items: center;
  gap: 10px;
  white-space: nowrap;
}
.new {
  display: grid;
  gap: 8px;
  justify-items: start;
}
.sentence {
  line-height: 1.9;
}
.why {
  color: var(--clay);
}
</style>
