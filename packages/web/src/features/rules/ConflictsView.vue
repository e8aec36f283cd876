<script setup lang="ts">
import { clockWords, valueWords } from '../../ui/telling.ts'
import { FIELD_WORDS, type FieldChange, instantDayWords } from '@loom/core/view'
import { useQueryCache } from '@pinia/colada'
import { Button, Checkbox, Input, Textarea } from 'ant-design-vue'
import { computed, ref } from 'vue'
import { answer, api } from '../../api/client.ts'
import { useAttempt } from '../../ui/attempt.ts'
import { say } from '../../stores/messages.ts'
import { useSession } from '../../stores/session.ts'
import { mergedText } from './merged-text.ts'
import UnconfirmedItems from './UnconfirmedItems.vue'
import RulesTabs from './RulesTabs.vue'
import { type Conflict, useWaiting } from './use-waiting.ts'

/** Fields that both sides changed, or that a rule cannot carry by itself: one queue, each with both values. */
const session = useSession()
const cache = useQueryCache()
const zone = computed(() => session.person?.zone ?? 'UTC')
const { conflicts, unconfirmed, loaded, trouble } = useWaiting()
const keyOf = (c: Conflict): string => `${c.tie} ${c.field}`
const chosen = ref<string[]>([])
const writing = ref<Record<string, string>>({})
const { busy, reason, attempt } = useAttempt()

const some = computed(() => conflicts.value.filter(c => chosen.value.includes(keyOf(c))))
const field = (c: Conflict): string => FIELD_WORDS[c.field as FieldChange['field']] ?? c.field
const words = (raw: unknown): string => {
  const told = valueWords(raw, zone.value)
  return told === null || told === '' ? 'empty' : told
}
const seenWords = (c: Conflict, side: 'a' | 'b'): string => {
  const { with: at, without } = c.seen[side]
  return without === 0 ? `seen ${day(at)}` : `changed before ${day(at)}`
}
const day = (at: number): string => `${instantDayWords(at, zone.value)} ${clockWords(at, zone.value)}`
const textOf = (raw: unknown): string =>
  typeof raw === 'string'
    ? raw
    : typeof raw === 'object' && raw !== null && 'title' in raw
      ? String(raw.title)
      : ''
const isText = (c: Conflict): boolean => ['title', 'notes', 'location'].includes(c.field)

function write(c: Conflict): void {
  const [base, a, b] = [textOf(c.base?.a), textOf(c.a), textOf(c.b)]
  writing.value = { ...writing.value, [keyOf(c)]: mergedText(base, a, b) }
}
function leave(c: Conflict): void {
  const rest = { ...writing.value }
  delete rest[keyOf(c)]
  writing.value = rest
}

const decide = (list: Conflict[], take: 'a' | 'b' | { value: string }) =>
  attempt(async () => {
    const of = list.map(c => ({ tie: c.tie, field: c.field }))
    await answer(() => api.waiting.conflicts.$post({ json: { of, take } }))
    chosen.value = chosen.value.filter(k => !list.some(c => keyOf(c) === k))
    for (const c of list) leave(c)
    say({ text: `${list.length === 1 ? 'Decided' : `${list.length} decided`}. Both sides are told.` })
    await cache.invalidateQueries({ key: ['rules'] })
  })
function toggle(c: Conflict): void {
  const k = keyOf(c)
  chosen.value = chosen.value.includes(k) ? chosen.value.filter(x => x !== k) : [...chosen.value, k]
}
</script>

<template>
  <main class="page">
    <div class="page-head">
      <h1>Conflicts</h1>
      <span class="quiet">Only these wait; everything else is kept in step.</span>
    </div>
    <RulesTabs />
    <p v-if="trouble" role="alert">{{ trouble }}</p>
    <p v-if="reason" class="why" role="alert">{{ reason }}</p>
    <div v-if="loaded && conflicts.length === 0 && unconfirmed.length === 0" class="sheet empty">
      <h2>Nothing waits for you</h2>
      <p>
        When both sides change the same field and a rule says “ask me”, or a rule cannot carry an edit without
        losing something, it is put here with both values. So is something new where nobody can tell whether
        it was made.
      </p>
    </div>
    <template v-else>
      <UnconfirmedItems :unconfirmed="unconfirmed" :day="day" />
      <div v-if="conflicts.length > 1" class="sheet many" role="group" aria-label="Several at once">
        <Checkbox
          :checked="some.length === conflicts.length"
          :indeterminate="some.length > 0 && some.length < conflicts.length"
          @change="chosen = some.length === conflicts.length ? [] : conflicts.map(keyOf)"
          >{{ some.length > 0 ? `${some.length} chosen` : 'All of them' }}</Checkbox
        >
        <span class="spacer" />
        <Button size="small" :disabled="some.length === 0 || busy" @click="decide(some, 'a')"
          >Use the first side</Button
        >
        <Button size="small" :disabled="some.length === 0 || busy" @click="decide(some, 'b')"
          >Use the second side</Button
        >
      </div>
      <article v-for="c in conflicts" :key="keyOf(c)" class="sheet" :aria-label="`${c.title}, ${field(c)}`">
        <header>
          <Checkbox
            v-if="conflicts.length > 1"
            :checked="chosen.includes(keyOf(c))"
            :aria-label="`Choose ${c.title}, ${field(c)}`"
            @change="toggle(c)"
          />
          <h2>{{ c.title }}</h2>
          <span class="quiet"
            >{{ field(c) }} · <RouterLink :to="`/rules/${c.ruleId}`">{{ c.rule }}</RouterLink> · waits since
            {{ day(c.since) }} ·
            <RouterLink v-if="c.item" :to="{ name: 'journal', query: { item: c.item } }"
              >History</RouterLink
            ></span
          >
        </header>
        <p class="quiet reason">
          {{ c.reason }} <template v-if="c.base">Before that it said: {{ words(c.base.a) }}.</template>
        </p>
        <div class="values">
          <section
            v-for="s in ['a', 'b'] as const"
            :key="s"
            :aria-label="`${c.title}, ${field(c)}: ${s === 'a' ? c.aName : c.bName}`"
          >
            <span class="quiet">{{ s === 'a' ? c.aName : c.bName }} · {{ seenWords(c, s) }}</span>
            <p class="value">{{ words(c[s]) }}</p>
            <Button :disabled="busy" @click="decide([c], s)">Take this one</Button>
          </section>
        </div>
        <div v-if="isText(c)" class="third">
          <button v-if="writing[keyOf(c)] === undefined" type="button" class="plain link" @click="write(c)">
            Merge by hand
          </button>
          <form v-else @submit.prevent="decide([c], { value: writing[keyOf(c)] ?? '' })">
            <Textarea
              v-if="c.field === 'notes'"
              v-model:value="writing[keyOf(c)]"
              :rows="4"
              :aria-label="`${field(c)}, written anew`"
            />
            <Input v-else v-model:value="writing[keyOf(c)]" :aria-label="`${field(c)}, written anew`" />
            <span class="row">
              <Button type="primary" html-type="submit" :disabled="busy">Write this on both sides</Button>
              <Button @click="leave(c)">Cancel</Button>
            </span>
          </form>
        </div>
      </article>
    </template>
  </main>
</template>

<style scoped>
.empty {
  padding: 28px;
}
.why {
  color: var(--clay);
}
.many {
  display: flex;
  gap: 10px;
  align-items: center;
  padding: 8px 14px;
  margin-bottom: 10px;
}
.spacer {
  flex: 1;
}
article {
  padding: 12px 14px;
  margin-bottom: 10px;
  border-left: 4px solid var(--clay);
}
header {
  display: flex;
  align-items: baseline;
  gap: 10px;
  flex-wrap: wrap;
}
.reason {
  margin: 4px 0 10px;
}
.values {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 12px;
}
.values section {
  border: 1px solid var(--warp);
  border-radius: 3px;
  padding: 8px 12px 10px;
}
.value {
  font-size: 15px;
  margin: 4px 0 8px;
  white-space: pre-wrap;
  overflow-wrap: anywhere;
}
.third {
  margin-top: 10px;
}
.third form {
  display: grid;
  gap: 8px;
}
.row {
  display: flex;
  gap: 8px;
}
.link {
  color: var(--amber);
  text-decoration: underline;
}
@media (max-width: 640px) {
  .many {
    flex-wrap: wrap;
  }
  .values {
    grid-template-columns: 1fr;
  }
}
</style>
