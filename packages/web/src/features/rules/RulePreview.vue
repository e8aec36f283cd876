<script setup lang="ts">
import { valueWords, whenWords } from '../../ui/telling.ts'
import { effectWords, FIELD_WORDS, type FieldChange, reasonWords, type RuleSettings } from '@loom/core/view'
import { Button } from 'ant-design-vue'
import { computed, ref } from 'vue'
import RuleAudience from './RuleAudience.vue'
import type { Preview } from './use-preview.ts'

/** Every effect that the rule in the sheet would have now, grouped by kind. */
const props = defineProps<{
  preview: Preview | null
  progress: { read: number; of: number } | null
  busy: boolean
  zone: string
  /** The lists and calendars of the two sides. */
  names: { a: string; b: string }
  trouble: string | null
  /** How many items are looked through. */
  items: number
}>()
const emit = defineEmits<{
  decline: [pair: string]
  /** These two are the same. */
  tie: [pair: string]
  cancel: []
  renew: []
  /** Settings by which something takes part. */
  take: [set: Partial<RuleSettings>]
}>()

type Decision = Preview['decisions'][number]
type Group = 'conflict' | 'stopped' | 'remove' | 'match' | 'make' | 'change' | 'none' | 'outside'

const GROUPS: { id: Group; name: string; tone: '' | 'grave' | 'still' }[] = [
  { id: 'conflict', name: 'waiting for you', tone: 'grave' },
  { id: 'stopped', name: 'held by the brake', tone: 'grave' },
  { id: 'remove', name: 'removed', tone: 'grave' },
  { id: 'match', name: 'matched', tone: '' },
  { id: 'make', name: 'made', tone: '' },
  { id: 'change', name: 'changed', tone: '' },
  { id: 'none', name: 'nothing made', tone: 'still' },
  { id: 'outside', name: 'outside', tone: 'still' },
]
function groupOf(d: Decision): Group {
  if (d.held.length > 0) return 'conflict'
  if (d.stopped) return 'stopped'
  if (d.reason === 'outside') return 'outside'
  return d.effect === 'release' ? 'none' : d.effect
}
const only = ref<Group | null>(null)
const chips = computed(() => {
  const c = props.preview?.counts
  if (!c) return []
  return GROUPS.map(g => ({ ...g, n: c[g.id] })).filter(
    g => g.n > 0 || ['make', 'change', 'remove'].includes(g.id),
  )
})
const groups = computed(() =>
  GROUPS.map(g => ({
    ...g,
    decisions: (props.preview?.decisions ?? []).filter(d => groupOf(d) === g.id),
  })).filter(g => g.decisions.length > 0 && (only.value === null || only.value === g.id)),
)
const count = (n: number): string => n.toLocaleString('en-IE')
const workingWords = computed(() => {
  const { progress } = props
  if (!progress || progress.of === 0) return `Looking through ${count(props.items)} items…`
  // What both sides hold was read; working out what it comes to is the last of it.
  return progress.read >= progress.of
    ? 'Working it out…'
    : `Looked through ${count(progress.read)} of ${count(progress.of)} items…`
})
const listed = computed(() => props.preview?.decisions.length ?? 0)

function line(d: Decision): string {
  const time = d.fields.find(f => f.field === 'time' && (f.before === null || f.before === undefined))
  if (d.effect === 'make')
    return [valueWords(time?.after, props.zone), reasonWords(d.reason)].filter(Boolean).join(' · ')
  if (d.effect === 'match' && d.fields.length === 0) return `${reasonWords(d.reason)}, and they say the same`
  return reasonWords(d.reason)
}
const side = (s: 'a' | 'b'): string => {
  const kinds = props.preview?.kinds
  if (!kinds) return ''
  return kinds.a === kinds.b ? (s === 'a' ? 'first side,' : 'second side,') : kinds[s]
}
/** One of two that may be the same: where it stands and when it is. */
const sideWords = ({ when }: Preview['possible'][number]['a'], s: 'a' | 'b'): string =>
  `${props.names[s]}: ${when ? whenWords(when, props.zone) : 'no date'}`
const fieldName = (f: string): string => FIELD_WORDS[f as FieldChange['field']] ?? f
/** Which value of a matched pair stays and which gives way. */
const changes = (d: Decision) => (d.effect === 'make' || d.effect === 'remove' ? [] : d.fields)
const effect = (d: Decision): string => {
  const kinds = props.preview?.kinds ?? { a: 'task', b: 'event' }
  const words = effectWords(d, kinds)
  // Where both sides hold the same, which one is meant has to be said.
  return kinds.a === kinds.b && d.on ? `${words} in ${props.names[d.on]}` : words
}
</script>

<template>
  <section class="sheet preview" aria-labelledby="preview-title" :aria-busy="busy">
    <header>
      <h2 id="preview-title">What this will do now</h2>
      <span v-if="busy" class="quiet working" role="status"
        >{{ workingWords }}
        <progress v-if="progress" :value="progress.read" :max="progress.of" aria-hidden="true" />
        <button type="button" class="plain link" @click="emit('cancel')">Stop</button></span
      >
      <div v-if="preview && !preview.problem" class="chips">
        <button
          v-for="c in chips"
          :key="c.id"
          type="button"
          class="plain chip"
          :class="c.n > 0 ? c.tone : 'still'"
          :aria-pressed="only === c.id"
          @click="only = only === c.id ? null : c.id"
        >
          <b>{{ c.n }}</b> {{ c.name }}
        </button>
      </div>
    </header>
    <p v-if="trouble" class="message" role="alert">
      {{ trouble }} <Button size="small" @click="emit('renew')">Try again</Button>
    </p>
    <p v-else-if="!preview" class="message quiet">
      {{
        busy
          ? 'Working it out…'
          : 'Choose both sides, and every single effect is listed here before anything happens.'
      }}
    </p>
    <p v-else-if="preview.problem" class="message" role="alert">{{ preview.problem }}</p>
    <p
      v-else-if="preview.decisions.length === 0 && !preview.advice && preview.possible.length === 0"
      class="message quiet"
    >
      Nothing. Both sides are in step already.
    </p>
    <p v-if="preview?.twice" class="message" role="note">{{ preview.twice }}</p>
    <RuleAudience v-if="preview" :preview="preview" :names="names" />
    <details v-if="!trouble && preview && preview.possible.length > 0" class="possible">
      <summary>
        <b>{{ preview.possible.length }}</b> {{ preview.possible.length === 1 ? 'has' : 'have' }} the same
        title on both sides, but not the same day
      </summary>
      <ol aria-label="Perhaps the same">
        <li v-for="p in preview.possible" :key="p.pair">
          <div class="top">
            <span class="title">{{ p.title }}</span>
            <button type="button" class="plain link" @click="emit('tie', p.pair)">Tie them</button>
          </div>
          <div class="quiet">{{ sideWords(p.a, 'a') }} · {{ sideWords(p.b, 'b') }}</div>
        </li>
      </ol>
    </details>
    <p v-if="preview?.advice && !trouble" class="message" role="note">
      {{ preview.advice.words }}
      <Button v-if="preview.advice.step" size="small" @click="emit('take', preview.advice.step.set)">{{
        preview.advice.step.label
      }}</Button>
    </p>
    <div v-if="!trouble && preview && !preview.problem && preview.decisions.length > 0" class="all">
      <section v-for="g in groups" :key="g.id" :aria-label="g.name">
        <h3>{{ g.name }}</h3>
        <ol>
          <li v-for="d in g.decisions" :key="`${d.a} ${d.b}`" :class="g.tone">
            <div class="top">
              <span class="title">{{ d.title }}</span>
              <span class="effect">{{ effect(d) }}</span>
            </div>
            <div class="quiet">{{ line(d) }}</div>
            <div v-for="f in changes(d)" :key="f.side + f.field" class="field">
              {{ side(f.side) }} {{ fieldName(f.field) }}: <s>{{ valueWords(f.before, zone) }}</s> →
              {{ valueWords(f.after, zone) ?? 'empty' }}
            </div>
            <div v-for="h in d.held" :key="h.field" class="field">
              {{ fieldName(h.field) }}: {{ valueWords(h.a, zone) }} or {{ valueWords(h.b, zone) }}.
              {{ h.reason }}
            </div>
            <button
              v-if="d.effect === 'match' && d.a && d.b"
              type="button"
              class="plain link"
              @click="emit('decline', `${d.a} ${d.b}`)"
            >
              These are not the same
            </button>
          </li>
        </ol>
      </section>
      <p v-if="listed === 500" class="message quiet">The first 500 are listed; the figures are of all.</p>
    </div>
  </section>
</template>

<style scoped>
progress {
  width: 90px;
  height: 6px;
  accent-color: var(--amber);
  vertical-align: 1px;
}
.preview {
  display: flex;
  flex-direction: column;
  max-height: calc(100vh - 130px);
  position: sticky;
  top: 62px;
}
header {
  padding: 12px 14px;
  border-bottom: 1px solid var(--warp);
}
.working {
  font-size: 13px;
}
.chips {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  margin-top: 9px;
}
.chip {
  background: var(--amber-wash);
  padding: 2px 9px;
  border-radius: 2px;
  border: 1px solid transparent;
}
.chip:hover,
.chip[aria-pressed='true'] {
  border-color: var(--amber);
}
.chip.still {
  background: var(--idle);
}
.chip.grave {
  background: var(--clay-wash);
}
.message {
  padding: 16px 14px;
  margin: 0;
}
.all {
  overflow: auto;
}
h3 {
  position: sticky;
  top: 0;
  padding: 5px 14px;
  font-size: 13px;
  color: var(--husk);
  background: var(--idle);
  border-bottom: 1px solid var(--warp);
}
ol {
  list-style: none;
  margin: 0;
  padding: 0;
}
li {
  padding: 8px 14px;
  border-bottom: 1px solid var(--warp);
  font-size: 13px;
  overflow-wrap: anywhere;
}
.possible {
  border-bottom: 1px solid var(--warp);
}
.possible li:last-child {
  border-bottom: 0;
}
summary {
  padding: 10px 14px;
  font-size: 13px;
  cursor: pointer;
}
li.grave {
  background: var(--clay-wash);
}
.top {
  display: flex;
  justify-content: space-between;
  gap: 12px;
  font-size: 14px;
}
.effect {
  color: var(--husk);
  white-space: nowrap;
  font-size: 13px;
}
.still .title {
  color: var(--husk);
}
.link {
  color: var(--amber);
  text-decoration: underline;
}
</style>
