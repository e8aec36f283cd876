<script setup lang="ts">
import { type ClothItem, dayAt, dayWords, LEVEL_WORDS, whole } from '@loom/core/view'
import { useQuery } from '@pinia/colada'
import { Button, Input, Modal } from 'ant-design-vue'
import { computed, reactive, ref, watch } from 'vue'
import { answer, api } from '../../api/client.ts'
import { say } from '../../stores/messages.ts'
import { useSession } from '../../stores/session.ts'
import { useAttempt } from '../../ui/attempt.ts'
import ChooseSome from '../../ui/ChooseSome.vue'
import SentenceChoice from '../../ui/SentenceChoice.vue'
import { clockWords } from '../../ui/telling.ts'

/** A secret address for calendar programs: what it tells is said in a sentence, and shown before there is one. */
const props = defineProps<{
  /** A saved view that one looks by. */
  view?: { id: string; name: string } | null
  /** Only this list or calendar. */
  list?: string
}>()
const emit = defineEmits<{ close: [] }>()
const session = useSession()
const sharing = useQuery({ key: ['team', 'sharing'], query: () => answer(() => api.sharing.$get()) })
const views = useQuery({ key: ['views'], query: () => answer(() => api.views.$get()) })

const lists = computed(() =>
  (sharing.data.value?.lists ?? [])
    .filter(l => !l.own && l.upTo === null)
    .map(l => ({ value: l.id, label: `${l.service} · ${l.name}` })),
)
const given = reactive({
  name: '',
  opens: 'feed' as 'feed' | 'availability' | 'caldav',
  /** `all`, or a view or a person by its id. */
  what: props.view ? `view ${props.view.id}` : 'all',
  lists: props.list === undefined ? ([] as string[]) : [props.list],
  level: 'title' as 'busy' | 'title' | 'everything',
  tasksAs: 'events' as 'events' | 'to-dos',
  weeks: 8,
  expires: 0,
})
// All of them, until some are chosen.
watch(
  lists,
  all => {
    if (given.lists.length === 0) given.lists = all.map(l => l.value)
  },
  { immediate: true },
)

const OPENS = [
  { value: 'feed' as const, label: 'what is planned' },
  { value: 'caldav' as const, label: 'list by list, as calendars (CalDAV),' },
  { value: 'availability' as const, label: 'only when' },
]
const whats = computed(() => {
  const { me = '', people = [] } = sharing.data.value ?? {}
  return [
    { value: 'all', label: 'all there' },
    { value: `person ${me}`, label: 'only what is mine' },
    ...people
      .filter(p => p.id !== me)
      .map(p => ({ value: `person ${p.id}`, label: `only what is ${p.name}’s` })),
    ...(views.data.value?.views ?? []).map(v => ({ value: `view ${v.id}`, label: `what “${v.name}” shows` })),
  ]
})
const whose = ref<'mine' | 'all'>('mine')
const WHOSE = [
  { value: 'mine' as const, label: 'my time' },
  { value: 'all' as const, label: 'any time' },
]
const isAll = computed(() => given.opens === 'availability' || given.what === 'all')
const levels = computed(() =>
  (isAll.value ? (['busy', 'title', 'everything'] as const) : (['title', 'everything'] as const)).map(
    value => ({
      value,
      label: LEVEL_WORDS[value].name,
    }),
  ),
)
watch(isAll, all => {
  if (!all && given.level === 'busy') given.level = 'title'
})
const TASKS = [
  { value: 'events' as const, label: 'events, marked when done' },
  { value: 'to-dos' as const, label: 'to-dos' },
]
const WEEKS = [2, 4, 8, 26].map(value => ({ value, label: `${value} weeks` }))
const EXPIRES = [
  { value: 0, label: 'until it is ended' },
  { value: 30, label: 'for 30 days' },
  { value: 365, label: 'for a year' },
]
const chosen = computed(() =>
  given.lists.length > 0 && given.lists.length === lists.value.length
    ? `all ${lists.value.length} of my lists`
    : lists.value.flatMap(l => (given.lists.includes(l.value) ? [l.label] : [])).join(', ') || 'which lists',
)

const terms = computed(() => {
  const isMine = given.opens === 'availability' && whose.value === 'mine'
  const what = isMine ? `person ${sharing.data.value?.me ?? ''}` : isAll.value ? '' : given.what
  const [kind, id = null] = what.split(' ')
  return {
    opens: given.opens,
    tasksAs: given.tasksAs,
    lists: given.lists,
    level: given.level,
    weeks: given.weeks,
    view: kind === 'view' ? id : null,
    person: kind === 'person' ? id : null,
  }
})
const zone = computed(() => session.person?.zone ?? 'UTC')
const MOST_LINES = 9
const DAYS_SHOWN = 14
const look = useQuery({
  key: () => ['team', 'links', 'look', JSON.stringify(terms.value)],
  query: () =>
    answer(() =>
      api.links.look.$post({
        json: {
          ...terms.value,
          span: { from: dayAt(session.now(), zone.value), days: DAYS_SHOWN, zone: zone.value },
        },
      }),
    ),
  enabled: () => given.lists.length > 0,
})
const told = computed((): ClothItem[] => (look.data.value?.items ?? []).map(whole))
const startOf = ({ place }: ClothItem): string =>
  place.kind === 'timed'
    ? `${dayAt(place.startMs, zone.value)} ${new Date(place.startMs).toISOString()}`
    : place.kind === 'all-day'
      ? place.from
      : place.kind === 'day'
        ? place.date
        : ''
function lineOf(item: ClothItem): { key: string; day: string; time: string; title: string } {
  const { place, key, title } = item
  const day = dayWords(startOf(item).slice(0, 10))
  const time =
    place.kind === 'timed'
      ? `${clockWords(place.startMs, zone.value)}–${clockWords(place.endMs, zone.value)}`
      : place.kind === 'all-day'
        ? 'all day'
        : 'in the day'
  return { key, day, time, title: given.opens === 'availability' ? 'taken' : title }
}
const lines = computed(() =>
  [...told.value]
    .sort((x, y) => (startOf(x) < startOf(y) ? -1 : 1))
    .slice(0, MOST_LINES)
    .map(lineOf),
)

/** Shown once: only its hash is kept. */
const made = ref('')
/** Of calendars (CalDAV); null where the address itself is the secret. */
const password = ref<string | null>(null)
const { busy, reason, attempt } = useAttempt()
async function make(): Promise<void> {
  await attempt(async () => {
    const json = { ...terms.value, name: given.name.trim(), expires: given.expires || null }
    const { link, password: secret } = await answer(() => api.links.$post({ json }))
    made.value = link
    password.value = secret
  })
}
async function copy(text: string, what: string): Promise<void> {
  await navigator.clipboard.writeText(text)
  say({ text: `The ${what} is copied.` })
}
</script>

<template>
  <Modal open title="An address for calendar programs" :footer="null" :width="600" @cancel="emit('close')">
    <template v-if="!made">
      <p class="sentence">
        Whoever has it is told
        <SentenceChoice v-model="given.opens" name="What it tells" :options="OPENS" />
        <template v-if="given.opens === 'availability'">
          <SentenceChoice v-model="whose" name="Whose time" :options="WHOSE" /> is taken
        </template>
        {{ given.opens === 'availability' ? 'by' : 'of' }}
        <ChooseSome v-model="given.lists" name="Lists of the address" :label="chosen" :options="lists" />,
        <template v-if="given.opens !== 'availability'"
          ><SentenceChoice v-model="given.what" name="What of them" :options="whats" />:
          <SentenceChoice v-model="given.level" name="How much of it" :options="levels" />, tasks as
          <SentenceChoice v-model="given.tasksAs" name="How tasks are told" :options="TASKS" />,
        </template>
        <SentenceChoice v-model="given.weeks" name="How far ahead" :options="WEEKS" /> ahead,
        <SentenceChoice v-model="given.expires" name="How long it is valid" :options="EXPIRES" />.
      </p>
      <section class="look" aria-label="What a reader is told">
        <h3>
          What a reader is told now <span class="quiet">· {{ told.length }} in two weeks</span>
        </h3>
        <p v-if="given.lists.length === 0" class="quiet">
          {{ lists.length === 0 ? 'Nothing: no list is yours to share.' : 'Nothing: choose a list.' }}
        </p>
        <p v-else-if="look.error.value" class="why" role="alert">{{ look.error.value.message }}</p>
        <p v-else-if="look.data.value && told.length === 0" class="quiet">Nothing in the next two weeks.</p>
        <ul v-else>
          <li v-for="(l, n) in lines" :key="l.key">
            <span class="day">{{ lines[n - 1]?.day === l.day ? '' : l.day }}</span>
            <span class="time">{{ l.time }}</span>
            <span class="title">{{ l.title }}</span>
          </li>
        </ul>
        <p v-if="told.length > lines.length" class="quiet">and {{ told.length - lines.length }} more</p>
        <p v-if="given.opens !== 'availability' && given.tasksAs === 'to-dos'" class="quiet">
          To-dos without a day are told as well.
        </p>
      </section>
      <form class="new" @submit.prevent="make">
        <Input
          v-model:value="given.name"
          :maxlength="100"
          placeholder="Whom it is for, such as my phone"
          aria-label="Whom it is for"
        />
        <Button
          type="primary"
          html-type="submit"
          :loading="busy"
          :disabled="given.name.trim() === '' || given.lists.length === 0"
          >Make the address</Button
        >
      </form>
    </template>
    <template v-else>
      <p v-if="password === null">
        For {{ given.name.trim() }}. Give it to a calendar program as a calendar to subscribe to; it asks anew
        by itself. <b>It is shown only now</b>, and whoever has it can read what it tells.
      </p>
      <p v-else>
        For {{ given.name.trim() }}. Add it to a calendar program as a CalDAV account; the user name may be
        anything. <b>The password is shown only now</b>, and whoever has it can read, and change nothing.
      </p>
      <div class="new">
        <Input :value="made" readonly aria-label="Address for calendar programs" />
        <Button :type="password === null ? 'primary' : 'default'" @click="copy(made, 'address')">Copy</Button>
      </div>
      <div v-if="password !== null" class="new secret">
        <Input :value="password" readonly aria-label="Password for calendar programs" />
        <Button type="primary" @click="copy(password, 'password')">Copy</Button>
      </div>
      <p class="quiet">It is ended under Team, Who sees what, Links.</p>
    </template>
    <p v-if="reason" class="why" role="alert">{{ reason }}</p>
  </Modal>
</template>

<style scoped>
.sentence {
  line-height: 1.9;
}
.look {
  min-height: 265px;
  margin: 12px 0;
  padding: 10px 12px;
  background: var(--linen);
}
h3 {
  margin: 0 0 6px;
  font-size: 14px;
}
ul {
  margin: 0;
  padding: 0;
  list-style: none;
}
li {
  display: grid;
  grid-template-columns: 84px 96px 1fr;
  gap: 8px;
  line-height: 1.6;
}
.day {
  font-weight: 600;
}
.time {
  color: var(--peat);
}
.title {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.new {
  display: flex;
  gap: 8px;
}
.secret {
  margin-top: 8px;
}
p {
  margin: 0 0 6px;
}
.why {
  color: var(--clay);
}
</style>
