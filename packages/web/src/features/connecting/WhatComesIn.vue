<script setup lang="ts">
import { type Filter, type Scope } from '@loom/core/view'
import { Input, InputNumber, RadioGroup, Radio } from 'ant-design-vue'
import { computed, ref, watch } from 'vue'
import ChooseSome from '../../ui/ChooseSome.vue'
import FoldOut from '../../ui/FoldOut.vue'
import SentenceChoice from '../../ui/SentenceChoice.vue'
import {
  clauseOf,
  type IntakeForm,
  isPart,
  meaningOf,
  type Offered,
  type Someone,
  statusesOf,
  withClause,
} from './intake-form.ts'
import LiveCount from './LiveCount.vue'
import PickItems from './PickItems.vue'
import type { Source } from './source.ts'
import { STATUS_CHOICES } from '../../ui/status-choices.ts'

/** One sentence that says what comes in, its parts editable in place, with the count beside it. */
const props = defineProps<{ offered: Offered[]; people: Someone[]; source: Source }>()
const form = defineModel<IntakeForm>({ required: true })

const scope = computed({
  get: () => form.value.scope,
  set: (scope: Scope) => (form.value = { ...form.value, scope }),
})
const filter = computed(() => scope.value.filter)
const setFilter = (next: Filter): void => void (scope.value = { ...scope.value, filter: next })

const open = computed(() => props.offered.filter(o => o.whyNot === null))
const notOffered = computed(() => props.offered.filter(o => o.whyNot !== null))
const lists = computed({
  get: () => form.value.takesPart,
  set: takesPart => (form.value = { ...form.value, takesPart }),
})
const listOptions = computed(() =>
  open.value.map(o => ({
    value: o.remoteId,
    label: o.name,
    indent: o.parent !== null,
    ...(o.count === null ? {} : { hint: String(o.count) }),
  })),
)
const listWords = computed(() => {
  const chosen = open.value.filter(o => lists.value.includes(o.remoteId))
  const wholes = open.value.filter(o => !isPart(o.remoteId))
  const [first, second] = chosen
  if (!first) return 'no list or calendar'
  if (chosen.length === wholes.length && chosen.every(o => !isPart(o.remoteId)) && wholes.length > 2)
    return `all ${wholes.length} of its lists and calendars`
  if (!second) return first.name
  return chosen.length === 2
    ? `${first.name} and ${second.name}`
    : `${first.name} and ${chosen.length - 1} more`
})

const FUTURE = [
  { value: false, label: 'only these' },
  { value: true, label: 'and those made there later' },
]
const future = computed({
  get: () => scope.value.future,
  set: f => (scope.value = { ...scope.value, future: f }),
})
const NOTES = [
  { value: true, label: 'with their notes' },
  { value: false, label: 'without their notes' },
]
const notes = computed({
  get: () => scope.value.notes,
  set: n => (scope.value = { ...scope.value, notes: n }),
})

const tasks = computed(() => open.value.some(o => o.itemKind === 'task' && lists.value.includes(o.remoteId)))
const listed = (words: string[]): string =>
  words.length < 2 ? (words[0] ?? '') : `${words.slice(0, -1).join(', ')} or ${words.at(-1) ?? ''}`

const statuses = computed({
  get: () => clauseOf(filter.value, 'status')?.is ?? [],
  set: is => setFilter(withClause(filter.value, 'status', is.length > 0 ? { field: 'status', is } : null)),
})
const statusWords = computed(() =>
  statuses.value.length === 0
    ? 'whatever their status'
    : `that are ${listed(STATUS_CHOICES.filter(s => statuses.value.includes(s.value)).map(s => s.label))}`,
)

const theirWords = computed(() => {
  const found = new Map<string, string>()
  for (const o of open.value)
    if (lists.value.includes(o.remoteId))
      for (const s of statusesOf(o, meaningOf(form.value, o))) found.set(s.id, s.name)
  return [...found].map(([value, label]) => ({ value, label: `“${label}”` }))
})
const stages = computed({
  get: () => clauseOf(filter.value, 'serviceStatus')?.is ?? [],
  set: is =>
    setFilter(
      withClause(filter.value, 'serviceStatus', is.length > 0 ? { field: 'serviceStatus', is } : null),
    ),
})
const stageWords = computed(() => {
  const chosen = theirWords.value.filter(w => stages.value.includes(w.value)).map(w => w.label)
  return chosen.length === 0 ? 'with any of its statuses' : `with ${listed(chosen)}`
})

const someone = computed(() => [
  ...(props.people.some(p => p.me) ? [{ value: 'me', label: 'me' }] : []),
  { value: 'nobody', label: 'nobody yet' },
  ...props.people.filter(p => !p.me).map(p => ({ value: p.id, label: p.name })),
])
const whose = computed({
  get: () => clauseOf(filter.value, 'assignee')?.is ?? [],
  set: is =>
    setFilter(withClause(filter.value, 'assignee', is.length > 0 ? { field: 'assignee', is } : null)),
})
const whoseWords = computed(() => {
  const chosen = someone.value.filter(s => whose.value.includes(s.value)).map(s => s.label)
  return chosen.length === 0 ? 'of everybody' : `of ${listed(chosen)}`
})

const words = computed(() => filter.value.filter(c => c.field === 'words'))
const wordsText = (without: boolean): string =>
  words.value.find(c => c.field === 'words' && c.without === without)?.of.join(', ') ?? ''
const typed = ref({ with: wordsText(false), without: wordsText(true) })
watch(
  typed,
  ({ with: yes, without: no }) => {
    const parts = (t: string): string[] =>
      t
        .split(',')
        .map(w => w.trim())
        .filter(Boolean)
        .slice(0, 20)
    const rest = filter.value.filter(c => c.field !== 'words')
    const made = (of: string[], without: boolean): Filter =>
      of.length > 0 ? [{ field: 'words', of, without }] : []
    setFilter([...rest, ...made(parts(yes), false), ...made(parts(no), true)])
  },
  { deep: true },
)
const wordWords = computed(() => {
  const quoted = (t: string): string => listed(t.split(', ').map(w => `“${w}”`))
  const [yes, no] = [wordsText(false), wordsText(true)]
  if (!yes && !no) return 'whatever they say'
  return [yes && `with ${quoted(yes)}`, no && `without ${quoted(no)}`].filter(Boolean).join(' and ')
})

const PRESSING = [
  { value: 0, label: 'of any priority' },
  { value: 1, label: 'of the highest priority' },
  { value: 3, label: 'of high priority or higher' },
  { value: 5, label: 'of medium priority or higher' },
  { value: 7, label: 'of low priority or higher' },
]
const pressing = computed({
  get: () => clauseOf(filter.value, 'priority')?.atLeast ?? 0,
  set: n => setFilter(withClause(filter.value, 'priority', n > 0 ? { field: 'priority', atLeast: n } : null)),
})
const since = computed({
  get: () => clauseOf(filter.value, 'since')?.days ?? null,
  set: days => setFilter(withClause(filter.value, 'since', days === null ? null : { field: 'since', days })),
})
const sinceWords = computed(() =>
  since.value === null
    ? 'from any time'
    : since.value === 0
      ? 'from today on'
      : `from ${since.value} days ago on`,
)
const BY = [
  { value: 'sentence' as const, label: 'What this sentence says' },
  { value: 'picked' as const, label: 'Nothing by itself; I pick single items' },
]
</script>

<template>
  <div>
    <RadioGroup
      :value="scope.by"
      name="what-comes-in"
      class="by"
      @change="e => (scope = { ...scope, by: e.target.value === 'picked' ? 'picked' : 'sentence' })"
    >
      <Radio v-for="b in BY" :key="b.value" :value="b.value">{{ b.label }}</Radio>
    </RadioGroup>
    <p v-if="scope.by === 'sentence'" class="sentence">
      Import everything of
      <ChooseSome
        v-model="lists"
        name="Which lists and calendars"
        :label="listWords"
        :options="listOptions"
      />&NoBreak;, <SentenceChoice v-model="future" :options="FUTURE" name="Lists made later" />&NoBreak;:
      <template v-if="tasks">
        tasks
        <ChooseSome
          v-model="whose"
          name="Whose"
          :label="whoseWords"
          :options="someone"
          none="Of everybody"
        />&NoBreak;,
        <ChooseSome
          v-model="statuses"
          name="Status"
          :label="statusWords"
          :options="STATUS_CHOICES"
          none="Whatever their status"
        />&NoBreak;,
        <template v-if="theirWords.length > 0">
          <ChooseSome
            v-model="stages"
            name="Its own words"
            :label="stageWords"
            :options="theirWords"
            none="Under any of its words"
          />&NoBreak;,
        </template>
        <SentenceChoice v-model="pressing" :options="PRESSING" name="Priority" />&NoBreak;,
      </template>
      <template v-else>events</template>
      <FoldOut name="Words" :label="wordWords">
        <label
          >With one of these words <Input v-model:value="typed.with" placeholder="festival, lantern"
        /></label>
        <label>Without these words <Input v-model:value="typed.without" placeholder="draft" /></label>
        <span class="quiet">In the title or the notes; commas between them.</span> </FoldOut
      >&NoBreak;,
      <FoldOut name="From when" :label="sinceWords">
        <span class="row">
          <InputNumber
            :value="since ?? 30"
            :min="0"
            :max="3650"
            aria-label="Days back"
            @change="n => (since = Number(n))"
          />
          days back
        </span>
        <span class="quiet">What has no date comes in all the same.</span>
        <button type="button" class="plain all" @click="since = null">From any time</button> </FoldOut
      >&NoBreak;, <SentenceChoice v-model="notes" :options="NOTES" name="Notes" />&NoBreak;.
    </p>
    <p v-else class="sentence">
      Look through
      <ChooseSome
        v-model="lists"
        name="Which lists and calendars"
        :label="listWords"
        :options="listOptions"
      />
      and take single items, <SentenceChoice v-model="notes" :options="NOTES" name="Notes" />&NoBreak;.
    </p>
    <LiveCount v-if="scope.by === 'sentence'" :form="form" :source="source" />
    <PickItems v-else v-model="form" :offered="offered" :source="source" />
    <details v-if="notOffered.length > 0" class="not-offered" open>
      <summary>
        Not offered: {{ notOffered.length }}
        {{ notOffered.length === 1 ? 'list or calendar' : 'lists and calendars' }}
      </summary>
      <ul>
        <li v-for="o in notOffered" :key="o.remoteId">
          <b>{{ o.name }}</b> {{ o.whyNot }}
        </li>
      </ul>
    </details>
  </div>
</template>

<style scoped>
.by {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 18px;
  margin-bottom: 10px;
}
.sentence {
  margin: 0 0 12px;
  font-size: 16px;
  line-height: 2;
  max-width: 78ch;
}
.row {
  display: flex;
  align-items: center;
  gap: 8px;
}
.all {
  justify-self: start;
  color: var(--amber);
  text-decoration: underline;
}
.not-offered {
  margin-top: 12px;
  color: var(--husk);
}
.not-offered ul {
  margin: 6px 0 0;
  padding-left: 20px;
}
.not-offered b {
  color: var(--peat);
}
</style>
