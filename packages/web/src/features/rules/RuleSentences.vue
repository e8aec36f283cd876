<script setup lang="ts">
import { deletedWords, leftWords, madeWords, type RuleSettings } from '@loom/core/view'
import { Input } from 'ant-design-vue'
import { computed } from 'vue'
import SentenceChoice from '../../ui/SentenceChoice.vue'

/** What happens when things end or appear: sentences, whose underlined words are the choices. */
const props = defineProps<{
  kinds: { a: 'task' | 'event'; b: 'task' | 'event' }
  names: { a: string; b: string }
  /** Statuses of the service of either side, for `a status of its own`. */
  statuses: { a: { value: string; label: string }[]; b: { value: string; label: string }[] }
}>()
const settings = defineModel<RuleSettings>({ required: true })

const OTHER = { a: 'b', b: 'a' } as const
const where = (s: 'a' | 'b'): string => props.names[s] || (s === 'a' ? 'the first side' : 'the second side')
const deletedOptions = (s: 'a' | 'b') => {
  const other = props.kinds[OTHER[s]]
  const policies = ['deleted', 'left', 'again', 'cancelled', 'completed', 'undated', 'status'] as const
  return policies
    .filter(p => (p !== 'undated' && p !== 'status') || other === 'task')
    .map(value => ({ value, label: deletedWords(value, other) }))
}
const madeOptions = (s: 'a' | 'b') =>
  (['all', 'new', 'marked', 'nothing'] as const).map(value => ({
    value,
    label: madeWords(value, props.kinds[s], props.kinds[OTHER[s]], settings.value.madeMark),
  }))
const leftOptions = (s: 'a' | 'b') =>
  (['remove', 'release', 'mark'] as const).map(value => ({
    value,
    label: leftWords(value, props.kinds[OTHER[s]]),
  }))

const CONFLICT = computed(() => [
  { value: 'newest' as const, label: 'the newer one counts' },
  { value: 'a' as const, label: `that of ${where('a')} counts` },
  { value: 'b' as const, label: `that of ${where('b')} counts` },
  { value: 'ask' as const, label: 'ask me' },
])
const SIDES = computed(() =>
  (['a', 'b'] as const).map(value => ({ value, label: `that of ${where(value)}` })),
)
const NEVER = [
  { value: false, label: 'may be deleted' },
  { value: true, label: 'is never deleted' },
]
const BACK = [0, 7, 30, 90, 365].map(value => ({
  value,
  label: value === 0 ? 'today' : `${value} days back`,
}))
const AHEAD = [14, 30, 60, 120, 365, 730].map(value => ({ value, label: `${value} days ahead` }))
const AS = [
  { value: 'busy' as const, label: 'busy' },
  { value: 'free' as const, label: 'free' },
]
const CLASS = [
  { value: 'public' as const, label: 'public' },
  { value: 'private' as const, label: 'private' },
  { value: 'confidential' as const, label: 'confidential' },
]
const PRIVATE = [
  { value: 'busy' as const, label: 'tells the other side only when it is: “Busy”' },
  { value: 'copied' as const, label: 'is carried over like any other, words and all' },
]
const TELL = [
  { value: true, label: 'say that it is a task block and flexible' },
  { value: false, label: 'do not say that it is flexible' },
]
const PARTS = [
  { value: 'own' as const, label: 'are tasks like any other' },
  { value: 'listed' as const, label: 'are listed in the notes of their parent’s event, and ticked there' },
  { value: 'out' as const, label: 'stay out' },
]
const SERIES = [
  { value: 'dates' as const, label: 'takes part with each of its dates' },
  { value: 'left' as const, label: 'is not synced' },
]
const OPEN_PARTS = [
  { value: 'left' as const, label: 'stay open' },
  { value: 'completed' as const, label: 'are completed too' },
]
const BLOCKS = [
  { value: 'remove' as const, label: 'are removed' },
  { value: 'free' as const, label: 'are shown free' },
  { value: 'keep' as const, label: 'stay' },
]
</script>

<template>
  <section class="sheet sentences">
    <p v-for="s in ['a', 'b'] as const" :key="s">
      {{ kinds[s] === 'task' ? 'A task' : 'An event' }} made in {{ where(s) }}
      <SentenceChoice v-model="settings.made[s]" :options="madeOptions(s)" :name="`Made in ${where(s)}`" />.
      When it is deleted there,
      <SentenceChoice
        v-model="settings.deleted[s]"
        :options="deletedOptions(s)"
        :name="`Deleted in ${where(s)}`"
      /><template v-if="settings.deleted[s] === 'status'"
        >:
        <SentenceChoice
          :model-value="settings.deletedStatus[s] ?? ''"
          :options="statuses[OTHER[s]]"
          name="The status it is given"
          @update:model-value="v => (settings.deletedStatus[s] = String(v))" /></template
      >. When it no longer takes part,
      <SentenceChoice
        v-model="settings.left[s]"
        :options="leftOptions(s)"
        :name="`Left the filter in ${where(s)}`"
      />. What is in {{ where(s) }}
      <SentenceChoice v-model="settings.neverLoses[s]" :options="NEVER" :name="`Deleting in ${where(s)}`" />
      by this rule.
    </p>
    <p v-if="settings.made.a === 'marked' || settings.made.b === 'marked'">
      The mark that makes it so is
      <Input
        v-model:value="settings.madeMark"
        size="small"
        class="short"
        :maxlength="8"
        aria-label="Mark in the title"
      />. Invitations, and what was there before the rule, never count.
    </p>
    <p>
      If both sides change the same field,
      <SentenceChoice
        v-model="settings.conflict"
        :options="CONFLICT"
        name="When both sides change the same"
      />; if the two cannot be told apart in time,
      <SentenceChoice
        v-model="settings.fallback"
        :options="SIDES"
        name="Kept when edits cannot be told apart"
      />
      is kept. Where the two differ when they are first tied,
      <SentenceChoice v-model="settings.firstWinner" :options="SIDES" name="Kept when first tied" /> is kept.
    </p>
    <p v-if="kinds.b === 'event'">
      What lies between
      <SentenceChoice v-model="settings.backDays" :options="BACK" name="How far back" /> and
      <SentenceChoice v-model="settings.aheadDays" :options="AHEAD" name="How far ahead" /> takes part. An
      event that repeats
      <SentenceChoice v-model="settings.series" :options="SERIES" name="Events that repeat" />. Colleagues see
      these events as <SentenceChoice v-model="settings.show.as" :options="AS" name="Shown as" />,
      <SentenceChoice v-model="settings.show.class" :options="CLASS" name="Shown to" /><template
        v-if="kinds.a === 'task' && kinds.b === 'event'"
        >; its categories
        <SentenceChoice
          v-model="settings.tellKind"
          :options="TELL"
          name="What its categories say" /></template
      >. A private event made in {{ where('b')
      }}<template v-if="kinds.a === 'event'"> or {{ where('a') }}</template>
      <SentenceChoice v-model="settings.privateItems" :options="PRIVATE" name="Private events" />.
    </p>
    <p v-if="kinds.a === 'task'">
      Sub-tasks <SentenceChoice v-model="settings.subtasks" :options="PARTS" name="Sub-tasks" /><template
        v-if="settings.subtasks === 'listed'"
        >; when their parent is done, those still open
        <SentenceChoice
          v-model="settings.openSubtasks"
          :options="OPEN_PARTS"
          name="Open sub-tasks" /></template
      >.<template v-if="kinds.b === 'event'">
        When a task is done, its further blocks still ahead
        <SentenceChoice v-model="settings.blocksAhead" :options="BLOCKS" name="Blocks ahead" />.</template
      >
    </p>
    <p v-if="settings.declined.length > 0">
      {{ settings.declined.length }} {{ settings.declined.length === 1 ? 'match' : 'matches' }} you said no
      to:
      <button type="button" class="plain again" @click="settings.declined = []">propose them again</button>.
    </p>
  </section>
</template>

<style scoped>
.sentences {
  padding: 4px 14px;
  line-height: 1.85;
}
p {
  margin: 7px 0;
}
.short {
  width: 70px;
}
.again {
  color: var(--amber);
  text-decoration: underline;
}
</style>
