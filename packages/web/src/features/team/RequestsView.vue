<script setup lang="ts">
import { durationWords, instantDayWords, type Level, LEVEL_WORDS, reaches } from '@loom/core/view'
import { useQueryCache } from '@pinia/colada'
import { Button } from 'ant-design-vue'
import { computed, nextTick, ref } from 'vue'
import { answer, api } from '../../api/client.ts'
import { say } from '../../stores/messages.ts'
import { takeBackDraft } from '../../stores/take-back.ts'
import { useSession } from '../../stores/session.ts'
import SentenceChoice from '../../ui/SentenceChoice.vue'
import { useAttempt } from '../../ui/attempt.ts'
import { clockWords, whenWords } from '../../ui/telling.ts'
import type { Request } from './asking.ts'
import { named } from './asks.ts'
import TeamTabs from './TeamTabs.vue'
import { useRequests } from './use-requests.ts'

/** What others ask of me, accepted or declined by a key; and what became of what I asked. */
const session = useSession()
const cache = useQueryCache()
const { forMe, mine, loaded, trouble } = useRequests()
const { busy, reason, attempt } = useAttempt()
const zone = computed(() => session.person?.zone ?? 'UTC')
const list = ref<HTMLElement | null>(null)

const whoseWords = ({ what }: Request): string =>
  what.ask === 'see' && what.of !== null
    ? what.of === session.person?.name
      ? 'your calendars and lists'
      : `what ${what.of} owns`
    : ((what.ask === 'see' ? what.place : null) ?? 'a calendar of which only busy times are seen')
/** That a rule may show more of a list, at most so much, to whoever looks there. */
function carryWords(what: Extract<Request['what'], { ask: 'carry' }>, level: Level): string {
  const rule = what.rule === null ? 'a rule' : `the rule “${what.rule}”`
  const where = what.target ?? 'a calendar or list that you do not see'
  return `that ${rule} may show ${LEVEL_WORDS[level].name} of ${what.place ?? 'what is carried there'} to ${named(what.who)}, in ${where}`
}
const THEN_WORDS = {
  rule: 'The rule is saved once everybody who is asked has agreed.',
  'turn on': 'The rule goes on once everybody who is asked has agreed.',
  share: 'They see it once everybody who is asked has agreed.',
}
/** How much an owner agrees to, where they chose less than was asked for. */
type Agreed = Exclude<Level, 'nothing' | 'change'>
const upTo = ref(new Map<string, Agreed>())
const levelFor = ({ id, what }: Request): Agreed =>
  upTo.value.get(id) ??
  (what.ask !== 'carry' || what.level === 'nothing' || what.level === 'change' ? 'everything' : what.level)
const AGREED: readonly Agreed[] = ['busy', 'title', 'everything']
const levelsFor = ({ what }: Request): { value: Agreed; label: string }[] =>
  AGREED.filter(level => what.ask === 'carry' && reaches(what.level, level)).map(value => ({
    value,
    label: LEVEL_WORDS[value].name,
  }))
function words(r: Request): string {
  const { what } = r
  if (what.ask === 'carry') return carryWords(what, levelFor(r))
  if (what.ask === 'give')
    return `“${what.title ?? 'A task that you no longer see'}” be given to ${what.to.name}`
  if (what.ask === 'time') {
    const tasks = new Set(what.pieces.map(p => p.key)).size
    return `${what.of.name === session.person?.name ? 'you' : what.of.name} to give ${tasks === 1 ? 'a task its' : `${tasks} tasks their`} time`
  }
  return `to see ${LEVEL_WORDS[what.level].name} of ${whoseWords(r)}`
}
function detail({ what }: Request): string {
  if (what.ask === 'give')
    return [
      what.place,
      what.due === null ? '' : `due ${whenWords(what.due, zone.value)}`,
      what.minutes === null ? '' : durationWords(what.minutes),
    ]
      .filter(Boolean)
      .join(' · ')
  if (what.ask === 'time') return ''
  if (what.ask === 'carry') return what.then === null ? '' : THEN_WORDS[what.then]
  const lists = what.lists === 1 ? 'one list or calendar' : `${what.lists} lists and calendars`
  const items =
    what.items === 0 ? 'nothing in it yet' : `${what.items} ${what.items === 1 ? 'item' : 'items'}`
  return what.lists === 0 ? '' : `Opens ${lists} with ${items}.`
}
const STATE_WORDS: Record<Request['state'], string> = {
  open: 'waits',
  accepted: 'accepted',
  declined: 'declined',
  lapsed: 'lapsed',
  withdrawn: 'withdrawn',
}
/** The times of a task together. */
function timesOf({ pieces }: Extract<Request['what'], { ask: 'time' }>) {
  const times = new Map<
    string,
    { key: string; title: string | null; reason: string | null; spans: string[] }
  >()
  for (const { key, title, reason, ...span } of pieces) {
    const at = times.get(key) ?? { key, title, reason, spans: [] }
    at.spans.push(spanWords(span))
    at.reason ??= reason
    times.set(key, at)
  }
  return [...times.values()]
}
const spanWords = ({ fromMs, toMs }: { fromMs: number; toMs: number }): string =>
  `${day(fromMs)}–${clockWords(toMs, zone.value)}`
const day = (at: number): string => `${instantDayWords(at, zone.value)} ${clockWords(at, zone.value)}`

async function respond(r: Request, accept: boolean): Promise<void> {
  if (busy.value) return
  const at = forMe.value.findIndex(x => x.id === r.id)
  const isDone = await attempt(async () => {
    const done = await answer(() =>
      api.requests[':id'].answer.$post({
        param: { id: r.id },
        json: { accept, upTo: r.what.ask === 'carry' ? upTo.value.get(r.id) : null },
      }),
    )
    const said = accept ? `Accepted: ${words(r)}.` : `Declined: ${words(r)}.`
    // What was agreed to is taken back where the list itself is.
    if (done.did === 'agreed')
      say({
        text: `Agreed up to ${LEVEL_WORDS[levelFor(r)].name}. ${done.carriedOut ? 'It is done.' : (done.reason ?? '')}`,
      })
    else if (done.did === 'gives time') say({ text: givenWords(done), undo: () => void takeBack(r, done) })
    else say({ text: said, undo: () => void takeBack(r, done) })
  })
  await cache.invalidateQueries({ key: ['team', 'requests'] })
  if (!isDone) say({ text: reason.value, tone: 'wrong' })
  await nextTick()
  const rows = list.value?.querySelectorAll<HTMLElement>('[data-request]') ?? []
  rows[Math.min(Math.max(at, 0), rows.length - 1)]?.focus()
}
type Done = Awaited<
  ReturnType<typeof answer<Awaited<ReturnType<(typeof api.requests)[':id']['answer']['$post']>>>>
>
function givenWords({ pieces, reason }: Extract<Done, { did: 'gives time' }>): string {
  const n = pieces.filter(p => p.ok).length
  return [`${n === 1 ? 'One piece has its' : `${n} pieces have their`} time.`, reason]
    .filter(Boolean)
    .join(' ')
}
async function takeBack(r: Request, done: Done): Promise<void> {
  const isBack = await attempt(async () => {
    if (done.did === 'gives time') {
      const backs = done.pieces.flatMap(p => (p.ok && p.back ? [p.back] : []))
      await takeBackDraft({
        title: 'What you agreed to',
        made: backs.flatMap(b => ('intent' in b ? [b.intent] : [])),
        edits: backs.flatMap(b => ('key' in b ? [b] : [])),
      })
    }
    if (done.did === 'shared') await answer(() => api.sharing.$put({ json: done.before }))
    else if (done.did === 'given' && done.inverse) {
      const { key, inverse } = done
      await answer(() => api.cloth[':key'].edit.$post({ param: { key }, query: {}, json: inverse }))
    }
    await answer(() => api.requests[':id'].answer.$delete({ param: { id: r.id } }))
  })
  await cache.invalidateQueries({ key: ['team', 'requests'] })
  if (!isBack) say({ text: `Not taken back. ${reason.value}`, tone: 'wrong' })
}
async function withdraw(r: Request): Promise<void> {
  if (await attempt(() => answer(() => api.requests[':id'].$delete({ param: { id: r.id } }))))
    await cache.invalidateQueries({ key: ['team', 'requests'] })
}
function onKey(event: KeyboardEvent, r: Request): void {
  if (event.target !== event.currentTarget) return
  const steps: Record<string, 1 | -1> = { ArrowDown: 1, ArrowUp: -1 }
  const step = steps[event.key]
  if (step !== undefined) {
    const rows = [...(list.value?.querySelectorAll<HTMLElement>('[data-request]') ?? [])]
    rows[rows.indexOf(event.currentTarget as HTMLElement) + step]?.focus()
  } else if (event.key === 'Enter' && r.reason === null) void respond(r, true)
  else if (event.key === 'Delete' || event.key === 'Backspace') void respond(r, false)
  else return
  event.preventDefault()
}
</script>

<template>
  <main class="page">
    <div class="page-head">
      <h1>Team</h1>
      <span class="quiet">What colleagues ask of you, and you of them.</span>
    </div>
    <TeamTabs />
    <p v-if="trouble" role="alert">{{ trouble }}</p>
    <section class="sheet" aria-label="Asked of you">
      <div class="title">
        <h2>Asked of you</h2>
        <span v-if="forMe.length > 0" class="quiet"
          ><kbd>↑</kbd><kbd>↓</kbd> choose · <kbd>Enter</kbd> accept · <kbd>Delete</kbd> decline</span
        >
      </div>
      <ol ref="list">
        <li
          v-for="r in forMe"
          :key="r.id"
          data-request
          tabindex="0"
          :aria-label="`${r.by.name} asks ${r.what.ask === 'give' ? 'that ' : ''}${words(r)}`"
          @keydown="onKey($event, r)"
        >
          <span class="quiet when">{{ day(r.at) }}</span>
          <span
            ><b>{{ r.by.name }}</b> asks {{ r.what.ask === 'give' ? 'that ' : '' }}{{ words(r) }}<br />
            <span class="quiet">{{ detail(r) }}</span>
            <ul v-if="r.what.ask === 'time'" class="times">
              <li v-for="t in timesOf(r.what)" :key="t.key">
                {{ t.title ?? 'Something that you no longer see' }}
                <span class="quiet">{{ t.spans.join(' · ') }}</span>
                <span v-if="t.reason" class="why"> {{ t.reason }}</span>
              </li>
            </ul>
            <template v-if="levelsFor(r).length > 1">
              You agree up to
              <SentenceChoice
                :model-value="levelFor(r)"
                name="Up to how much"
                :options="levelsFor(r)"
                @update:model-value="v => upTo.set(r.id, v)"
              />.</template
            >
            <span v-if="r.reason" class="why"> {{ r.reason }}</span>
          </span>
          <span class="acts">
            <Button size="small" type="primary" :disabled="r.reason !== null" @click="respond(r, true)"
              >Accept</Button
            >
            <Button size="small" @click="respond(r, false)">Decline</Button>
          </span>
        </li>
        <li v-if="loaded && forMe.length === 0" class="quiet none">
          Nobody waits for you. When somebody wants a task of yours handed on, time for one, to see more of
          what is yours, or a rule to carry it on, it stands here.
        </li>
      </ol>
    </section>
    <section class="sheet" aria-label="Asked by you">
      <div class="title"><h2>Asked by you</h2></div>
      <ol>
        <li v-for="r in mine" :key="r.id">
          <span class="quiet when">{{ day(r.at) }}</span>
          <span
            >{{ r.what.ask === 'give' ? 'That ' : '' }}{{ words(r) }}<br />
            <span class="quiet"
              >{{ STATE_WORDS[r.state]
              }}{{ r.answeredBy && r.state !== 'withdrawn' ? ` by ${r.answeredBy}` : ''
              }}{{ r.answeredAt ? `, ${day(r.answeredAt)}` : '' }}</span
            >
            <ul v-if="r.what.ask === 'time'" class="times">
              <li v-for="t in timesOf(r.what)" :key="t.key">
                {{ t.title ?? 'Something that you no longer see' }}
                <span class="quiet">{{ t.spans.join(' · ') }}</span>
                <span v-if="t.reason" class="why"> {{ t.reason }}</span>
              </li>
            </ul>
            <span v-if="r.reason" class="why"> {{ r.reason }}</span>
          </span>
          <span class="acts">
            <Button v-if="r.state === 'open'" size="small" @click="withdraw(r)">Withdraw</Button>
          </span>
        </li>
        <li v-if="loaded && mine.length === 0" class="quiet none">
          You have asked for nothing. A task that you may only look at can be asked to be given to somebody
          from its menu; more of a colleague’s calendar from a busy time, or from <i>People</i>.
        </li>
      </ol>
    </section>
  </main>
</template>

<style scoped>
section + section {
  margin-top: 12px;
}
.title {
  display: flex;
  flex-wrap: wrap;
  justify-content: space-between;
  align-items: baseline;
  gap: 4px 16px;
  padding: 10px 14px 6px;
}
h2 {
  margin: 0;
}
ol {
  margin: 0;
  padding: 0 0 4px;
  list-style: none;
}
li {
  display: grid;
  grid-template-columns: 150px minmax(0, 1fr) auto;
  gap: 12px;
  align-items: start;
  padding: 8px 14px;
  border-top: 1px solid var(--warp);
  overflow-wrap: anywhere;
}
.times {
  margin: 2px 0 0;
  padding: 0;
  list-style: none;
}
.times li {
  display: block;
  padding: 1px 0;
  border: none;
}
li.none {
  display: block;
}
li:focus-visible {
  outline-offset: -2px;
}
.acts {
  display: flex;
  gap: 6px;
}
kbd {
  padding: 0 4px;
  margin-right: 3px;
  border: 1px solid var(--warp-strong);
  border-radius: 2px;
  font: inherit;
  font-size: 12px;
}
@media (max-width: 620px) {
  li {
    grid-template-columns: minmax(0, 1fr);
    gap: 4px;
  }
}
</style>
