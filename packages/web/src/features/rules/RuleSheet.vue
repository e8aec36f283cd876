<script setup lang="ts">
import { PhArrowsLeftRight } from '@phosphor-icons/vue'
import { type ReadyMade, ruleLine, type RuleSettings } from '@loom/core/view'
import { useQueryCache } from '@pinia/colada'
import { Button, Input } from 'ant-design-vue'
import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { answer, api } from '../../api/client.ts'
import { useAttempt } from '../../ui/attempt.ts'
import { say } from '../../stores/messages.ts'
import { useSession } from '../../stores/session.ts'
import { useUnsaved } from '../../stores/unsaved.ts'
import { agoWords } from '../../stores/connections.ts'
import { askButton, askedWords } from '../team/asks.ts'
import MakeCalendar from '../connections/MakeCalendar.vue'
import RuleActs from './RuleActs.vue'
import RuleFields from './RuleFields.vue'
import RuleNotices from './RuleNotices.vue'
import RulePreview from './RulePreview.vue'
import RuleSide from './RuleSide.vue'
import RuleSentences from './RuleSentences.vue'
import RuleTables from './RuleTables.vue'
import RuleVersions from './RuleVersions.vue'
import StartRule from './StartRule.vue'
import { type Draft, usePreview } from './use-preview.ts'
import { type Given, plainCopy, useRuleDraft } from './use-rule-draft.ts'
import { useRules } from './use-rules.ts'

const route = useRoute()
const router = useRouter()
const session = useSession()
const cache = useQueryCache()
const { rules, now } = useRules()

const id = computed(() => (route.params.id === 'new' ? null : String(route.params.id)))
const rule = computed(() => rules.value.find(r => r.id === id.value))
const { given, dirty, take, keep, connections, collections, a, b, kinds, fields } = useRuleDraft(
  () => rule.value,
)
/** What a new rule began as; until then it is asked for. */
const begun = ref<ReadyMade['kinds'] | null>(null)
const { busy, reason, attempt } = useAttempt()
const showsVersions = ref(false)

const copied = computed(() => rules.value.find(r => r.id === route.query.copy))
const wanted = computed(() => begun.value ?? copied.value?.kinds ?? (id.value ? kinds.value : null))

function start(kind: ReadyMade): void {
  begun.value = kind.kinds
  take({ name: '', a: undefined, b: undefined, settings: kind.settings }, true)
}
function fromPaper(paper: Given): void {
  const itemKind = (which: string | undefined) => collections.value.find(k => k.id === which)?.itemKind
  begun.value = { a: itemKind(paper.a) ?? 'task', b: itemKind(paper.b) ?? 'event' }
  take(paper, false)
}
if (copied.value)
  take({ name: '', a: undefined, b: undefined, settings: plainCopy(copied.value.settings) }, true)

const options = (side: 'a' | 'b') =>
  collections.value
    .filter(k => k.itemKind === wanted.value?.[side])
    .map(k => ({
      value: k.id,
      label: `${k.service} · ${k.name}${k.writable ? '' : ' (read only)'}`,
      disabled: !k.writable && (side === 'b' || k.itemKind === 'task'),
    }))
/** A calendar that is made for this rule, at which account and for which side. */
const making = ref<{ side: 'a' | 'b'; connection: string } | null>(null)
const newCalendar = ref('')
const makers = computed(() => connections.value.filter(c => c.kind === 'caldav'))
const maker = computed(() => makers.value.find(c => c.id === making.value?.connection))
async function chooseMade(): Promise<void> {
  const side = making.value?.side
  making.value = null
  if (!newCalendar.value || !side) return
  await cache.invalidateQueries({ key: ['connections'] })
  given[side] = newCalendar.value
  newCalendar.value = ''
}
const sides = computed(() => [a.value, b.value].filter(s => s !== undefined))
const words = (side: typeof a.value) => (side?.statuses ?? []).map(s => ({ value: s.id, label: s.name }))
/** A meaning counts at once: what the rule would do is worked out anew. */
async function meant(): Promise<void> {
  await cache.invalidateQueries({ key: ['connections'] })
  renew()
}

const draft = (): Draft | null =>
  given.a && given.b
    ? { id: id.value, name: given.name.trim() || null, a: given.a, b: given.b, settings: given.settings }
    : null
const { preview, busy: working, progress, trouble, renew, cancel } = usePreview(draft)

// What is being read for the first time can be looked through once it is.
watch(
  () => [a.value, b.value].map(side => side !== undefined && side.syncedAt === null).join(),
  () => void renew(),
)

const figures = computed(() => {
  const c = preview.value?.counts
  if (!c || preview.value?.problem) return ''
  return [
    preview.value && preview.value.moving > 0 ? `move ${preview.value.moving}` : '',
    c.match > 0 ? `tie ${c.match}` : '',
    c.make > 0 ? `make ${c.make}` : '',
    c.change > 0 ? `change ${c.change}` : '',
    c.remove > 0 ? `remove ${c.remove}` : '',
  ]
    .filter(Boolean)
    .join(', ')
})
const asks = computed(() => preview.value?.asks ?? [])
const button = computed(() => {
  if (asks.value.length > 0) return askButton(asks.value)
  const verb = id.value ? 'Save' : 'Turn on'
  return figures.value ? `${verb}: ${figures.value}` : verb
})
const savable = computed(
  () => preview.value !== null && !preview.value.problem && (id.value === null || dirty.value),
)
const line = computed(() =>
  a.value && b.value ? ruleLine(given.settings, kinds.value, a.value.name, b.value.name) : '',
)

const save = () =>
  attempt(async () => {
    const d = draft()
    if (!d) return
    const done = await answer(() => api.rules.$post({ json: d }))
    keep()
    if ('reason' in done) {
      say({ text: askedWords(done.asked) })
      await cache.invalidateQueries({ key: ['team', 'requests'] })
      await router.push('/team/requests')
      return
    }
    const made = done.id
    const moved = preview.value?.moving ?? 0
    const there = moved > 0 && b.value ? ` What is tied goes to ${b.value.name} now.` : ''
    say({
      text: id.value
        ? `The rule is saved.${there}`
        : 'The rule is on. The journal tells each change it makes.',
    })
    await cache.invalidateQueries({ key: ['rules'] })
    if (!id.value) await router.replace(`/rules/${made}`)
    await renew()
  })

/** There is nothing left to be asked about. */
async function removed(): Promise<void> {
  keep()
  await cache.invalidateQueries({ key: ['rules'] })
  await router.push('/rules')
}
const tie = (pair: string): void => void (given.settings.paired = [...given.settings.paired, pair])
function decline(pair: string): void {
  given.settings.declined = [...given.settings.declined, pair]
  given.settings.paired = given.settings.paired.filter(p => p !== pair)
}
function bringBack(settings: RuleSettings): void {
  given.settings = plainCopy(settings)
  say({ text: 'The earlier version stands in the sheet. Look at what it would do, then save it.' })
}

useUnsaved(() => dirty.value, 'What you changed on this rule would be lost.')
</script>

<template>
  <main class="page">
    <div class="page-head">
      <h1>{{ rule ? rule.name : id ? 'Rule' : 'New rule' }}</h1>
      <span v-if="rule" class="quiet">
        {{ rule.state === 'on' ? 'on' : 'paused' }} · {{ rule.ties }} tied · last run
        {{ agoWords(rule.lastPassAt, now) }} ·
        {{ rule.waiting > 0 ? `${rule.waiting} on the way` : 'nothing on the way' }}
      </span>
      <span v-else-if="!id" class="quiet">Nothing happens before you turn it on.</span>
      <span class="spacer" />
      <RuleActs v-if="rule" v-model:versions="showsVersions" :rule="rule" @removed="removed" />
      <Button v-if="wanted" type="primary" :disabled="!savable" :loading="busy" @click="save">{{
        button
      }}</Button>
    </div>
    <p v-if="reason" class="why" role="alert">{{ reason }}</p>
    <RuleNotices v-if="rule" :rule="rule" />

    <StartRule v-if="!wanted" @start="start" @paper="fromPaper" />
    <div v-else class="halves">
      <div>
        <RuleVersions
          v-if="showsVersions && rule"
          :id="rule.id"
          :version="rule.version"
          class="versions"
          @bring-back="bringBack"
        />
        <p v-if="line" class="line">{{ line }}</p>
        <p v-if="preview && preview.moving > 0 && b" class="quiet">
          {{ preview.moving }} tied {{ wanted.b === 'event' ? 'events' : 'tasks' }} go along to {{ b.name }}.
          What repeats or has guests stays where it is, tied.
        </p>
        <p v-for="w in preview?.weaker ?? []" :key="w" class="quiet">{{ w }}</p>
        <section class="sheet sides" aria-label="The two sides and their fields">
          <template v-for="s in ['a', 'b'] as const" :key="s">
            <div v-if="s === 'b'" class="mid"><PhArrowsLeftRight :size="22" aria-hidden="true" /></div>
            <RuleSide
              v-model="given[s]"
              v-model:settings="given.settings"
              :side="s"
              :item-kind="wanted[s]"
              :alike="wanted.a === wanted.b"
              :options="options(s)"
              :fixed="id !== null && s === 'a'"
              :chosen="s === 'a' ? a : b"
              :makers="wanted[s] === 'event' ? makers : []"
              @make="connection => (making = { side: s, connection })"
            />
          </template>
          <RuleFields v-model="given.settings" :fields="fields" :kinds="kinds" />
        </section>
        <RuleTables
          v-model="given.settings"
          :sides="sides"
          :has-priority="given.settings.fields.priority !== 'off'"
          @meant="meant"
        />
        <h2 class="over">When things end or appear</h2>
        <RuleSentences
          v-model="given.settings"
          :kinds="kinds"
          :names="{ a: a?.name ?? '', b: b?.name ?? '' }"
          :statuses="{ a: words(a), b: words(b) }"
        />
        <label class="name"
          ><span>Its name</span>
          <Input
            v-model:value="given.name"
            :maxlength="200"
            :placeholder="`${a?.name ?? ''} ⇄ ${b?.name ?? ''}`"
        /></label>
      </div>
      <MakeCalendar v-if="maker" :connection="maker" @made="id => (newCalendar = id)" @close="chooseMade" />
      <RulePreview
        :preview="preview"
        :progress="progress"
        :busy="working"
        :names="{ a: a?.name ?? '', b: b?.name ?? '' }"
        :trouble="trouble"
        :items="(a?.items ?? 0) + (b?.items ?? 0)"
        :zone="session.person?.zone ?? 'UTC'"
        @decline="decline"
        @tie="tie"
        @take="set => (given.settings = { ...given.settings, ...set })"
        @cancel="cancel"
        @renew="renew"
      />
    </div>
  </main>
</template>

<style scoped>
.why {
  color: var(--clay);
  margin: 4px 0;
}
.line {
  margin: 0 0 10px;
  font-size: 15px;
}
.versions {
  margin-bottom: 12px;
}
.halves {
  display: grid;
  grid-template-columns: minmax(0, 1.6fr) minmax(0, 1fr);
  gap: 14px;
  align-items: start;
}
.sides {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 56px minmax(0, 1.2fr);
}
.mid {
  padding: 9px 14px;
  display: flex;
  justify-content: center;
  align-items: center;
  color: var(--amber);
  background: color-mix(in srgb, var(--amber-wash) 40%, var(--cloth));
  border-inline: 1px solid var(--warp);
}
.over {
  margin: 16px 0 8px;
}
.name {
  display: grid;
  gap: 4px;
  margin-top: 14px;
  max-width: 420px;
}
@media (max-width: 960px) {
  .halves {
    grid-template-columns: minmax(0, 1fr);
  }
}
@media (max-width: 560px) {
  .sides {
    grid-template-columns: minmax(0, 1fr) 40px minmax(0, 1fr);
  }
  .mid {
    padding: 8px 6px;
  }
}
</style>
