<script setup lang="ts">
import { PhArrowRight, PhArrowsLeftRight } from '@phosphor-icons/vue'
import { defaultSettings, durationWords, type RuleSettings } from '@loom/core/view'
import { useQueryCache } from '@pinia/colada'
import { Button, Modal } from 'ant-design-vue'
import { computed, reactive, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { answer, api, Refused } from '../../api/client.ts'
import { say } from '../../app/messages.ts'
import { useUnsaved } from '../../app/unsaved.ts'
import { useSession } from '../../app/session.ts'
import { agoWords, useConnections } from '../connections/use-connections.ts'
import RulePreview from './RulePreview.vue'
import SentenceChoice from './SentenceChoice.vue'
import SideChoice from './SideChoice.vue'
import { type Draft, usePreview } from './use-preview.ts'
import { useRules } from './use-rules.ts'

const route = useRoute()
const router = useRouter()
const session = useSession()
const cache = useQueryCache()
const { connections } = useConnections()
const { rules, now } = useRules()

const id = computed(() => (route.params.id === 'new' ? null : String(route.params.id)))
const rule = computed(() => rules.value.find(r => r.id === id.value))
const given = reactive<{ a: string | undefined; b: string | undefined; settings: RuleSettings }>({
  a: undefined,
  b: undefined,
  settings: { ...defaultSettings },
})
const kept = ref(JSON.stringify(given))
const busy = ref(false)
const reason = ref('')

watch(
  rule,
  r => {
    // What somebody is editing is not overwritten by what arrives.
    if (!r || dirty.value) return
    given.a = r.a
    given.b = r.b
    given.settings = { ...r.settings }
    kept.value = JSON.stringify(given)
  },
  { immediate: true },
)
const dirty = computed(() => JSON.stringify(given) !== kept.value)

const collections = computed(() =>
  connections.value
    .flatMap(c => c.collections.map(k => ({ ...k, service: c.name })))
    .filter(k => k.takesPart),
)
const options = (holds: 'task' | 'event') =>
  collections.value
    .filter(k => k.holds === holds)
    .map(k => ({
      value: k.id,
      label: `${k.service} · ${k.name}${k.writable ? '' : ' (read only)'}`,
      disabled: !k.writable,
    }))
const named = (which: string | undefined) => collections.value.find(k => k.id === which)
const a = computed(() => named(given.a))
const b = computed(() => named(given.b))

const draft = (): Draft | null =>
  given.a && given.b ? { id: id.value, a: given.a, b: given.b, settings: given.settings } : null
const { preview, busy: working, trouble, renew } = usePreview(draft)

const figures = computed(() => {
  const c = preview.value?.counts
  if (!c || preview.value?.problem) return ''
  const parts = [
    c.match > 0 ? `tie ${c.match}` : '',
    c.make > 0 ? `make ${c.make}` : '',
    c.change > 0 ? `change ${c.change}` : '',
    c.remove > 0 ? `remove ${c.remove}` : '',
  ].filter(Boolean)
  return parts.join(', ')
})
const button = computed(() => {
  const what = figures.value ? figures.value.charAt(0).toUpperCase() + figures.value.slice(1) : ''
  if (id.value) return what ? `Save: ${figures.value}` : 'Save'
  return what ? `Turn on: ${figures.value}` : 'Turn on'
})
const savable = computed(
  () => preview.value !== null && !preview.value.problem && (id.value === null || dirty.value),
)

async function save(): Promise<void> {
  const d = draft()
  if (!d) return
  busy.value = true
  reason.value = ''
  try {
    const { id: made } = await answer(() => api.rules.$post({ json: d }))
    kept.value = JSON.stringify(given)
    say({ text: id.value ? 'The rule is saved.' : 'The rule is on. The journal tells each change it makes.' })
    await cache.invalidateQueries({ key: ['rules'] })
    if (!id.value) await router.replace(`/rules/${made}`)
    await renew()
  } catch (error) {
    if (!(error instanceof Refused)) throw error
    reason.value = error.message
  } finally {
    busy.value = false
  }
}

async function setState(state: 'on' | 'paused'): Promise<void> {
  const which = id.value
  if (!which) return
  await answer(() => api.rules[':id'].state.$put({ param: { id: which }, json: { state } }))
  say({ text: state === 'on' ? 'The rule is on again.' : 'The rule is paused. Both sides stay as they are.' })
}

function remove(): void {
  const r = rule.value
  if (!r) return
  Modal.confirm({
    title: 'Remove this rule?',
    content: `The ${r.ties} tied tasks and events stay where they are, on both sides, but are no longer kept in step. The journal stays.`,
    okText: 'Remove the rule',
    cancelText: 'Leave it',
    okType: 'danger',
    onOk: async () => {
      await answer(() => api.rules[':id'].$delete({ param: { id: r.id } }))
      kept.value = JSON.stringify(given)
      await cache.invalidateQueries({ key: ['rules'] })
      await router.push('/rules')
    },
  })
}

function decline(pair: string): void {
  given.settings.declined = [...given.settings.declined, pair]
}

useUnsaved(() => dirty.value, 'What you changed on this rule would be lost.')

const LENGTHS = [15, 30, 45, 60, 90, 120, 180, 240, 480].map(value => ({
  value,
  label: durationWords(value),
}))
const BACK = [0, 7, 30, 90, 365].map(value => ({
  value,
  label: value === 0 ? 'today' : `${value} days back`,
}))
const AHEAD = [14, 30, 60, 120, 365, 730].map(value => ({ value, label: `${value} days ahead` }))
const MARKS = ['✓', '●', 'done:'].map(value => ({ value, label: value }))
const SIDES = [
  { value: 'a' as const, label: 'the task’s' },
  { value: 'b' as const, label: 'the event’s' },
]
const BOTH = [
  { value: true, label: 'both ways' },
  { value: false, label: 'not carried' },
]
</script>

<template>
  <main class="page">
    <div class="page-head">
      <h1>{{ rule ? `${a?.name ?? ''} ⇄ ${b?.name ?? ''}` : id ? 'Rule' : 'New rule' }}</h1>
      <span v-if="rule" class="quiet">
        {{ rule.state === 'on' ? 'on' : 'paused' }} · last pass {{ agoWords(rule.lastPassAt, now) }} ·
        {{ rule.waiting > 0 ? `${rule.waiting} on the way` : 'nothing waits' }}
      </span>
      <span v-else-if="!id" class="quiet">Nothing happens before you turn it on.</span>
      <span class="spacer" />
      <template v-if="rule">
        <Button @click="setState(rule.state === 'on' ? 'paused' : 'on')">{{
          rule.state === 'on' ? 'Pause' : 'Go on'
        }}</Button>
        <Button danger @click="remove">Remove</Button>
      </template>
      <Button type="primary" :disabled="!savable" :loading="busy" @click="save">{{ button }}</Button>
    </div>
    <p v-if="reason" class="why" role="alert">{{ reason }}</p>
    <p v-for="n in rule?.notices ?? []" :key="n" class="why">{{ n }}</p>

    <div class="halves">
      <div>
        <section class="sheet sides" aria-label="The two sides and their fields">
          <div class="cell head">
            <span class="dye" :style="{ background: a?.dye ?? 'var(--warp-strong)' }" />
            <div>
              <h2>Task list</h2>
              <SideChoice
                v-model="given.a"
                :options="options('task')"
                :disabled="id !== null"
                name="Task list"
                empty="Choose a task list"
              />
              <span v-if="a" class="quiet">{{ a.items }} tasks</span>
            </div>
          </div>
          <div class="mid head"><PhArrowsLeftRight :size="22" aria-label="both ways" /></div>
          <div class="cell head">
            <span class="dye" :style="{ background: b?.dye ?? 'var(--warp-strong)' }" />
            <div>
              <h2>Calendar</h2>
              <SideChoice
                v-model="given.b"
                :options="options('event')"
                :disabled="id !== null"
                name="Calendar"
                empty="Choose a calendar"
              />
              <span v-if="b" class="quiet">{{ b.items }} events</span>
            </div>
          </div>

          <div class="cell"><b>Title</b> text</div>
          <div class="mid"><PhArrowsLeftRight :size="16" aria-label="both ways" /></div>
          <div class="cell">summary</div>

          <div class="cell"><b>Time</b> planned date</div>
          <div class="mid"><PhArrowsLeftRight :size="16" aria-label="both ways" /></div>
          <div class="cell">
            <span
              >start; length: the task’s estimate, else
              <SentenceChoice
                v-model="given.settings.defaultMinutes"
                :options="LENGTHS"
                name="Length without an estimate"
            /></span>
          </div>

          <div class="cell"><b>No hour</b> date only</div>
          <div class="mid"><PhArrowRight :size="16" aria-label="to the calendar" /></div>
          <div class="cell">no event; listed at the head of its day</div>

          <div class="cell"><b>Completion</b> done</div>
          <div class="mid"><PhArrowsLeftRight :size="16" aria-label="both ways" /></div>
          <div class="cell">
            <span
              >the event stays, marked
              <b v-if="id" class="fixed">{{ given.settings.mark }}</b>
              <SentenceChoice
                v-else
                v-model="given.settings.mark"
                :options="MARKS"
                name="Mark of a done task"
              />, shown free</span
            >
          </div>

          <div class="cell"><b>Notes</b> details</div>
          <div class="mid">
            <PhArrowsLeftRight v-if="given.settings.notes" :size="16" aria-label="both ways" /><span
              v-else
              aria-label="not carried"
              >–</span
            >
          </div>
          <div class="cell">
            <SentenceChoice v-model="given.settings.notes" :options="BOTH" name="Notes" />
          </div>
        </section>

        <h2 class="over">When things end or appear</h2>
        <section class="sheet sentences">
          When the event is deleted, <b>the task goes back to the shelf</b>. When the task is deleted,
          <b>the event is removed</b>. An event made in this calendar <b>becomes a task</b>; what was there
          before the rule, invitations and series do not. Taking the mark off in the calendar opens the task
          again. If both sides change the same field, <b>the newer one counts</b>, and if the two cannot be
          told apart,
          <SentenceChoice
            v-model="given.settings.fallback"
            :options="SIDES"
            name="Kept when edits cannot be told apart"
          />
          is kept. Where the two differ when they are first tied,
          <SentenceChoice v-model="given.settings.firstWinner" :options="SIDES" name="Kept when first tied" />
          is kept. Tasks planned from
          <SentenceChoice v-model="given.settings.backDays" :options="BACK" name="How far back" /> to
          <SentenceChoice v-model="given.settings.aheadDays" :options="AHEAD" name="How far ahead" /> take
          part.
          <template v-if="given.settings.declined.length > 0">
            {{ given.settings.declined.length }}
            {{ given.settings.declined.length === 1 ? 'match' : 'matches' }} you said no to:
            <button type="button" class="plain again" @click="given.settings.declined = []">
              propose them again</button
            >.
          </template>
        </section>
      </div>
      <RulePreview
        :preview="preview"
        :busy="working"
        :trouble="trouble"
        :zone="session.person?.zone ?? 'UTC'"
        @decline="decline"
      />
    </div>
  </main>
</template>

<style scoped>
.why {
  color: var(--clay);
}
.halves {
  display: grid;
  grid-template-columns: minmax(0, 1.6fr) minmax(0, 1fr);
  gap: 14px;
  align-items: start;
}
.sides {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 64px minmax(0, 1.15fr);
}
.cell,
.mid {
  padding: 9px 14px;
  min-height: 24px;
  display: flex;
  align-items: center;
  gap: 10px;
  border-top: 1px solid var(--warp);
}
.head {
  border-top: 0;
  align-items: stretch;
}
.head > div {
  display: grid;
  gap: 4px;
  flex: 1;
  min-width: 0;
}
.head label {
  font:
    700 15px 'Bricolage Grotesque Variable',
    sans-serif;
}
.head .quiet {
  font-size: 12.5px;
}
.mid {
  justify-content: center;
  background: color-mix(in srgb, var(--amber-wash) 40%, var(--cloth));
  border-inline: 1px solid var(--warp);
}
.mid.head {
  align-items: center;
  color: var(--amber);
}
.cell b {
  font-weight: 400;
  color: var(--husk);
  width: 84px;
  flex: none;
}
.cell .fixed {
  width: auto;
  color: inherit;
  font-weight: 700;
}
.over {
  margin: 16px 0 8px;
}
.sentences {
  padding: 12px 14px;
  line-height: 1.9;
}
.again {
  color: var(--amber);
  text-decoration: underline;
}
@media (max-width: 960px) {
  .halves {
    grid-template-columns: minmax(0, 1fr);
  }
}
@media (max-width: 560px) {
  .sides {
    grid-template-columns: minmax(0, 1fr) 34px minmax(0, 1fr);
  }
  .cell,
  .mid {
    padding: 8px 6px;
  }
  .cell {
    flex-wrap: wrap;
    overflow-wrap: anywhere;
  }
  .head .dye {
    display: none;
  }
}
</style>
