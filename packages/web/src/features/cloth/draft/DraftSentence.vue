<script setup lang="ts">
import type { PlanSentence, PlanSpan } from '@loom/core/planning'
import { computed } from 'vue'
import SentenceChoice from '../../../ui/SentenceChoice.vue'

/** What a draft is made of, as a sentence; each underlined word is a choice that is kept. */
const props = defineProps<{
  sentence: PlanSentence
  /** How many work windows there are. */
  windows: number
  /** Whose work may be drafted, beside one's own; empty where one plans for oneself alone. */
  people: readonly { id: string; name: string }[]
  me: string
}>()
const emit = defineEmits<{ say: [patch: Partial<PlanSentence>] }>()

const sentence = computed(() => props.sentence)
const WHOSE = computed(() => [
  { value: 'me', label: 'my work' },
  { value: 'everybody', label: 'everybody’s work' },
  ...props.people.filter(p => p.id !== props.me).map(p => ({ value: p.id, label: `the work of ${p.name}` })),
])
/** Of somebody who has left, one's own is drafted. */
const whose = computed(() =>
  WHOSE.value.some(o => o.value === props.sentence.whose) ? props.sentence.whose : 'me',
)
const SPANS: { value: PlanSpan; label: string }[] = [
  { value: 'today', label: 'today' },
  { value: 'week', label: 'this week' },
  { value: 'seven', label: 'the next 7 days' },
  { value: 'fortnight', label: 'the next 14 days' },
]
const INTO = computed((): { value: PlanSentence['into']; label: string }[] => {
  const n = props.windows
  return [
    { value: 'hours', label: 'all working time' },
    { value: 'windows', label: n === 1 ? 'one work window only' : `${n} work windows only` },
  ]
})
const minutes = (all: readonly number[], of?: number): { value: number; label: string }[] =>
  [...new Set([...all, ...(of ? [of] : [])])]
    .sort((x, y) => x - y)
    .map(value => ({ value, label: value % 60 === 0 ? `${value / 60} h` : `${value} min` }))
const NEVER = 0
const RESTS = computed(() => [
  { value: NEVER, label: 'no break' },
  ...minutes([5, 10, 15, 20, 30], sentence.value.breaks?.rest).map(o => ({
    ...o,
    label: `a break of ${o.label}`,
  })),
])
const RUNS = computed(() => minutes([45, 60, 90, 120, 180], sentence.value.breaks?.after))
const PARTS = computed(() => [
  { value: NEVER, label: 'in one piece' },
  ...minutes([30, 45, 60, 90, 120], sentence.value.parts ?? undefined).map(o => ({
    ...o,
    label: `in parts from ${o.label}`,
  })),
])
const ANEW = [
  { value: false, label: 'stays' },
  { value: true, label: 'may be moved' },
]
const UNDATED = [
  { value: true, label: 'too' },
  { value: false, label: 'not' },
]
function rest(value: number): void {
  const after = sentence.value.breaks?.after ?? 90
  emit('say', { breaks: value === NEVER ? null : { after, rest: value } })
}
</script>

<template>
  <p class="sentence">
    Plan
    <template v-if="people.length > 1">
      <SentenceChoice
        name="Whose work"
        :options="WHOSE"
        :model-value="whose"
        @update:model-value="w => emit('say', { whose: w })"
      />
      {{ ' ' }}</template
    >
    <SentenceChoice
      name="Which days"
      :options="SPANS"
      :model-value="sentence.span"
      @update:model-value="span => emit('say', { span })"
    />
    into
    <SentenceChoice
      name="Into what"
      :options="INTO"
      :model-value="sentence.into"
      @update:model-value="into => emit('say', { into })"
    />&NoBreak;;
    <SentenceChoice
      name="Breaks"
      :options="RESTS"
      :model-value="sentence.breaks?.rest ?? NEVER"
      @update:model-value="rest"
    /><template v-if="sentence.breaks">
      after
      <SentenceChoice
        name="After so much work"
        :options="RUNS"
        :model-value="sentence.breaks.after"
        @update:model-value="
          after => sentence.breaks && emit('say', { breaks: { ...sentence.breaks, after } })
        " /></template
    >&NoBreak;; without estimate
    <SentenceChoice
      name="Without an estimate"
      :options="minutes([15, 30, 45, 60, 90, 120], sentence.withoutEstimate)"
      :model-value="sentence.withoutEstimate"
      @update:model-value="withoutEstimate => emit('say', { withoutEstimate })"
    />&NoBreak;; long ones
    <SentenceChoice
      name="Long tasks"
      :options="PARTS"
      :model-value="sentence.parts ?? NEVER"
      @update:model-value="parts => emit('say', { parts: parts === NEVER ? null : parts })"
    />&NoBreak;; tasks without a date
    <SentenceChoice
      name="Tasks without a date"
      :options="UNDATED"
      :model-value="sentence.undated"
      @update:model-value="undated => emit('say', { undated })"
    />&NoBreak;; planned work
    <SentenceChoice
      name="What is planned already"
      :options="ANEW"
      :model-value="sentence.anew"
      @update:model-value="anew => emit('say', { anew })"
    />&NoBreak;.
  </p>
</template>

<style scoped>
.sentence {
  margin: 0;
  line-height: 1.9;
}
</style>
