<script setup lang="ts">
import { effectWords, FIELD_WORDS, type FieldChange, reasonWords, valueWords } from '@loom/core/view'
import { computed } from 'vue'
import type { Preview } from './use-preview.ts'

const props = defineProps<{ preview: Preview | null; busy: boolean; zone: string; trouble: string | null }>()
const emit = defineEmits<{ decline: [pair: string] }>()

type Decision = Preview['decisions'][number]

const chips = computed(() => {
  const c = props.preview?.counts
  if (!c) return []
  return [
    { n: c.match, name: 'matched', tone: '' },
    { n: c.make, name: 'made', tone: '' },
    { n: c.change, name: 'changed', tone: '' },
    { n: c.remove, name: 'removed', tone: c.remove > 0 ? 'grave' : '' },
    { n: c.none, name: 'without hour', tone: 'still' },
    { n: c.outside, name: 'outside', tone: 'still' },
  ].filter(chip => chip.n > 0 || ['made', 'changed', 'removed'].includes(chip.name))
})

function line(d: Decision): string {
  const time = d.fields.find(f => f.field === 'time' && f.before === null)
  if (d.effect === 'make')
    return [valueWords(time?.after, props.zone), reasonWords(d.reason)].filter(Boolean).join(' · ')
  if (d.effect === 'match' && d.fields.length === 0) return `${reasonWords(d.reason)}, and they say the same`
  return reasonWords(d.reason)
}
const side = (s: 'a' | 'b'): string => (s === 'a' ? 'task' : 'event')
const fieldName = (f: string): string => FIELD_WORDS[f as FieldChange['field']] ?? f
/** Which value of a matched pair stays and which gives way. */
const changes = (d: Decision) => (d.effect === 'make' || d.effect === 'remove' ? [] : d.fields)
</script>

<template>
  <section class="sheet preview" aria-labelledby="preview-title" :aria-busy="busy">
    <header>
      <h2 id="preview-title">What this will do now</h2>
      <div v-if="preview && !preview.problem" class="chips">
        <span v-for="c in chips" :key="c.name" class="chip" :class="c.tone"
          ><b>{{ c.n }}</b> {{ c.name }}</span
        >
      </div>
    </header>
    <p v-if="trouble" class="message" role="alert">{{ trouble }}</p>
    <p v-else-if="!preview" class="message quiet">
      {{
        busy
          ? 'Working it out…'
          : 'Choose a task list and a calendar, and every single effect is listed here before anything happens.'
      }}
    </p>
    <p v-else-if="preview.problem" class="message" role="alert">{{ preview.problem }}</p>
    <p v-else-if="preview.decisions.length === 0" class="message quiet">
      Nothing. Both sides are in step already.
    </p>
    <ol v-else>
      <li
        v-for="d in preview.decisions"
        :key="`${d.a} ${d.b}`"
        :class="{ grave: d.effect === 'remove' || d.reason === 'held', still: d.effect === 'none' }"
      >
        <div class="top">
          <span class="title">{{ d.title }}</span>
          <span class="effect">{{ effectWords(d) }}</span>
        </div>
        <div class="quiet">{{ line(d) }}</div>
        <div v-for="f in changes(d)" :key="f.side + f.field" class="field">
          {{ side(f.side) }} {{ fieldName(f.field) }}: <s>{{ valueWords(f.before, zone) }}</s> →
          {{ valueWords(f.after, zone) }}
        </div>
        <div v-for="h in d.held" :key="h.field" class="field">{{ h.reason }}</div>
        <button
          v-if="d.effect === 'match' && d.a && d.b"
          type="button"
          class="plain decline"
          @click="emit('decline', `${d.a} ${d.b}`)"
        >
          These are not the same
        </button>
      </li>
    </ol>
  </section>
</template>

<style scoped>
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
ol {
  list-style: none;
  margin: 0;
  padding: 0;
  overflow: auto;
}
li {
  padding: 8px 14px;
  border-bottom: 1px solid var(--warp);
  font-size: 13px;
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
.decline {
  color: var(--amber);
  text-decoration: underline;
}
</style>
