<script setup lang="ts">
import { clockWords, whenWords } from '../../app/telling.ts'
import {
  type ClothItem,
  dayWords,
  durationWords,
  type Edit,
  EventKind,
  instantDayWords,
  onDate,
  type Said,
} from '@loom/core/view'
import { useQuery } from '@pinia/colada'
import { Button, Drawer, Input, InputNumber } from 'ant-design-vue'
import { computed, ref, watch } from 'vue'
import { answer, api } from '../../api/client.ts'
import ChooseOne from '../../app/ChooseOne.vue'
import ItemHistory from './ItemHistory.vue'
import NotesField from './NotesField.vue'
import { type Source, sourceWords } from './signs.ts'
import TaskTick from './TaskTick.vue'
import { KIND_WORDS, placeWords } from './words.ts'

/** Everything about one item, editable where its service allows it, and saying why where it does not. */
const props = defineProps<{ item: ClothItem; zone: string; now: number; sources: readonly Source[] }>()
const emit = defineEmits<{
  edit: [item: ClothItem, edit: Edit]
  go: [key: string]
  batch: [tasks: string[]]
  close: []
}>()

const query = useQuery({
  key: () => ['cloth', 'item', props.item.key],
  query: () => answer(() => api.cloth[':key'].$get({ param: { key: props.item.key } })),
})
const details = computed(() => query.data.value)
const item = computed(() => details.value?.item ?? props.item)
const isTask = computed(() => item.value.kind === 'task' || item.value.kind === 'tied')
const side = computed(() => details.value?.task ?? details.value?.event ?? null)
const writable = computed(() => side.value?.writable ?? false)
const locked = computed(() =>
  writable.value ? '' : 'Where it lives can only be read: change it there, or keep what you plan in a block.',
)

const title = ref(props.item.title)
watch(item, (now, before) => {
  if (title.value === before.title) title.value = now.title
})
const say = (said: Said): void => emit('edit', props.item, { do: 'say', said })
function rename(): void {
  const next = title.value.trim()
  if (next && next !== item.value.title) emit('edit', props.item, { do: 'rename', title: next })
  else title.value = item.value.title
}
const due = computed(() =>
  details.value?.due?.kind === 'date' ? details.value.due.date : (item.value.due ?? ''),
)
function setDue(event: Event): void {
  const { value } = event.target as HTMLInputElement
  say({ due: value === '' ? null : onDate(value) })
}
const PRIORITIES = [
  { value: 0, label: 'none' },
  { value: 1, label: 'high' },
  { value: 5, label: 'medium' },
  { value: 9, label: 'low' },
]
const priority = computed(() => {
  const p = item.value.priority
  return p === 0 ? 0 : p <= 3 ? 1 : p <= 6 ? 5 : 9
})
const STATUS = [
  { value: 'needs-action' as const, label: 'to do' },
  { value: 'in-process' as const, label: 'under way' },
  { value: 'completed' as const, label: 'completed' },
  { value: 'cancelled' as const, label: 'called off' },
]
const KINDS = EventKind.options
  .filter(k => k !== 'task block' && k !== 'batch')
  .map(value => ({ value, label: value }))
const BUSY = [
  { value: 'opaque' as const, label: 'busy' },
  { value: 'transparent' as const, label: 'free' },
]
const CLASS = [
  { value: 'public' as const, label: 'everybody' },
  { value: 'private' as const, label: 'nobody else' },
  { value: 'confidential' as const, label: 'only that it is there' },
]
const spent = computed(() => item.value.blocks.spent)
const planned = computed(() => item.value.blocks.ahead)
function categoriesFrom(event: Event): void {
  const list = (event.target as HTMLInputElement).value
    .split(',')
    .map(c => c.trim())
    .filter(Boolean)
  say({ categories: list })
}
function inBatch(key: string, by: -1 | 1 | null): void {
  const keys = item.value.batch.map(t => t.key)
  const at = keys.indexOf(key)
  if (by === null) keys.splice(at, 1)
  else if (at + by >= 0 && at + by < keys.length) keys.splice(at + by, 0, ...keys.splice(at, 1))
  emit('batch', keys)
}
</script>

<template>
  <Drawer open :mask="false" :width="440" :closable="false" @close="emit('close')">
    <aside :aria-label="`Details of ${item.title}`">
      <div class="bar">
        <strong>{{ KIND_WORDS[item.kind] }}</strong>
        <Button size="small" @click="emit('close')">Close</Button>
      </div>
      <div class="title">
        <TaskTick
          v-if="isTask"
          :done="item.done"
          :title="item.title"
          :disabled="!item.completable"
          :round="item.recurring"
          @toggle="emit('edit', props.item, { do: item.done ? 'reopen' : 'complete' })"
        />
        <Input.TextArea
          v-model:value="title"
          :auto-size="{ minRows: 1, maxRows: 4 }"
          :disabled="!writable"
          :maxlength="500"
          aria-label="Title"
          @blur="rename"
          @keydown.enter.prevent="rename"
        />
      </div>
      <p class="quiet">
        {{ placeWords(item, zone) }}<template v-if="item.fixedBecause"> · {{ item.fixedBecause }}</template>
      </p>
      <p v-if="locked" class="quiet">{{ locked }}</p>

      <dl v-if="details" class="facts">
        <template v-if="isTask">
          <dt>Status</dt>
          <dd>
            <ChooseOne
              :model-value="item.status"
              name="Status"
              :options="STATUS"
              :disabled="!writable"
              @update:model-value="status => status && say({ status })"
            />
            <span v-if="details.statusThere" class="quiet"> there: {{ details.statusThere }}</span>
          </dd>
          <dt><label for="drawer-due">Due</label></dt>
          <dd>
            <input
              id="drawer-due"
              type="date"
              class="native"
              :value="due"
              :disabled="!writable"
              @change="setDue"
            />
          </dd>
          <dt><label for="drawer-estimate">Estimate</label></dt>
          <dd>
            <InputNumber
              id="drawer-estimate"
              size="small"
              :value="item.estimate ?? ''"
              :min="5"
              :max="100000"
              :step="15"
              placeholder="none"
              @change="
                v => emit('edit', props.item, { do: 'estimate', minutes: typeof v === 'number' ? v : null })
              "
            />
            min<span v-if="spent + planned > 0" class="quiet">
              · {{ durationWords(spent) }} worked, {{ durationWords(planned) }} reserved</span
            >
          </dd>
          <dt>Priority</dt>
          <dd>
            <ChooseOne
              :model-value="priority"
              name="Priority"
              :options="PRIORITIES"
              :disabled="!writable"
              @update:model-value="p => p !== null && say({ priority: p })"
            />
          </dd>
          <dt>Given to</dt>
          <dd>{{ details.assignees.map(a => a.name).join(', ') || 'nobody' }}</dd>
        </template>
        <template v-if="details.event">
          <dt><label for="drawer-where">Place</label></dt>
          <dd>
            <input
              id="drawer-where"
              class="native"
              :value="item.location"
              :disabled="!details.event.writable"
              maxlength="500"
              @change="e => say({ location: (e.target as HTMLInputElement).value })"
            />
          </dd>
          <dt>Shown</dt>
          <dd class="line">
            <ChooseOne
              :model-value="details.transparency"
              name="Shown as"
              :options="BUSY"
              :disabled="!details.event.writable"
              @update:model-value="transparency => transparency && say({ transparency })"
            />
            to
            <ChooseOne
              :model-value="details.class"
              name="Shown to"
              :options="CLASS"
              :disabled="!details.event.writable"
              @update:model-value="c => c && say({ class: c })"
            />
          </dd>
          <template v-if="item.kind === 'event'">
            <dt>Kind</dt>
            <dd>
              <ChooseOne
                :model-value="details.kind"
                name="Kind"
                :options="KINDS"
                @update:model-value="kind => kind && emit('edit', props.item, { do: 'kind', kind })"
              />
              <span v-if="details.guests > 0" class="quiet">
                {{ details.guests }} guest{{ details.guests === 1 ? '' : 's' }}</span
              >
            </dd>
          </template>
        </template>
        <dt><label for="drawer-categories">Marked</label></dt>
        <dd>
          <input
            id="drawer-categories"
            class="native"
            :value="item.categories.join(', ')"
            :disabled="!writable"
            placeholder="words, with commas between"
            maxlength="500"
            @change="categoriesFrom"
          />
        </dd>
        <dt>Lives in</dt>
        <dd>
          {{ sourceWords(item, sources) }}
          <a v-if="details.url" :href="details.url" target="_blank" rel="noopener noreferrer"
            >open its link</a
          >
        </dd>
        <template v-if="details.rule">
          <dt>Kept in step by</dt>
          <dd>
            <RouterLink :to="`/rules/${details.rule.id}`">{{ details.rule.name }}</RouterLink>
          </dd>
        </template>
        <template v-if="details.parent">
          <dt>Part of</dt>
          <dd>
            <button type="button" class="plain link" @click="emit('go', details.parent.key)">
              {{ details.parent.title }}
            </button>
          </dd>
        </template>
        <template v-if="item.of">
          <dt>Time for</dt>
          <dd>
            <button type="button" class="plain link" @click="emit('go', item.of)">its task</button>
          </dd>
        </template>
      </dl>
      <p v-else-if="query.error.value" class="wrong" role="alert">{{ query.error.value.message }}</p>
      <p v-else class="quiet">Fetching the rest…</p>

      <template v-if="details">
        <section v-if="item.kind === 'batch'" aria-label="In this batch">
          <h3>In this batch</h3>
          <p v-if="item.batch.length === 0" class="quiet">
            Nothing yet. Drop tasks onto it, or pick it when you place one.
          </p>
          <div v-for="(t, i) in item.batch" :key="t.key" class="part">
            <TaskTick
              :done="t.done"
              :title="t.title"
              :disabled="!t.completable"
              @toggle="
                emit(
                  'edit',
                  { ...props.item, key: t.key, title: t.title },
                  { do: t.done ? 'reopen' : 'complete' },
                )
              "
            />
            <button type="button" class="plain link" @click="emit('go', t.key)">{{ t.title }}</button>
            <Button
              size="small"
              :disabled="i === 0"
              :aria-label="`${t.title}: earlier`"
              @click="inBatch(t.key, -1)"
              >↑</Button
            >
            <Button
              size="small"
              :disabled="i === item.batch.length - 1"
              :aria-label="`${t.title}: later`"
              @click="inBatch(t.key, 1)"
              >↓</Button
            >
            <Button size="small" :aria-label="`${t.title}: out of the batch`" @click="inBatch(t.key, null)"
              >out</Button
            >
          </div>
        </section>
        <section v-if="details.blocks.length > 0" aria-label="Blocks">
          <h3>Blocks</h3>
          <div v-for="b in details.blocks" :key="b.key" class="part" :class="{ past: b.startMs < now }">
            <TaskTick
              :done="b.spent"
              :title="`${instantDayWords(b.startMs, zone)} ${clockWords(b.startMs, zone)}`"
              :disabled="false"
              @toggle="
                emit('edit', { ...props.item, key: b.key, kind: 'block' }, { do: 'spend', spent: !b.spent })
              "
            />
            {{ instantDayWords(b.startMs, zone) }}, {{ clockWords(b.startMs, zone) }}
            <span class="quiet">{{ durationWords(b.minutes) }} · {{ b.place }}</span>
          </div>
        </section>
        <section v-if="details.parts.length > 0" aria-label="Sub-tasks">
          <h3>Sub-tasks</h3>
          <div v-for="p in details.parts" :key="p.key" class="part">
            <TaskTick
              :done="p.done"
              :title="p.title"
              :disabled="!p.completable"
              @toggle="
                emit(
                  'edit',
                  { ...props.item, key: p.key, title: p.title },
                  { do: p.done ? 'reopen' : 'complete' },
                )
              "
            />
            <button type="button" class="plain link" @click="emit('go', p.key)">{{ p.title }}</button>
          </div>
        </section>
        <NotesField
          :text="details.description"
          :locked="locked"
          @save="description => say({ description })"
        />
        <ItemHistory :item="item.key" :zone="zone" />
        <p class="quiet foot">
          {{
            details.task?.created
              ? `Made ${whenWords({ kind: 'date', date: details.task.created.slice(0, 10) }, zone)}.`
              : ''
          }}
          {{ item.due && item.overdue ? `Was due ${dayWords(item.due)}.` : '' }}
        </p>
      </template>
    </aside>
  </Drawer>
</template>

<style scoped>
.bar {
  display: flex;
  justify-content: space-between;
  margin-bottom: 12px;
}
a {
  text-decoration: underline;
}
.title {
  display: flex;
  align-items: center;
  gap: 10px;
}
.title :deep(textarea) {
  font:
    700 18px/1.3 'Bricolage Grotesque Variable',
    sans-serif;
}
.facts {
  display: grid;
  grid-template-columns: 104px minmax(0, 1fr);
  gap: 6px 10px;
  margin: 12px 0;
  align-items: center;
}
dt {
  color: var(--husk);
}
dd {
  margin: 0;
  min-width: 0;
}
.line {
  display: flex;
  align-items: center;
  gap: 8px;
  flex-wrap: wrap;
}
h3 {
  margin: 16px 0 6px;
}
.part {
  display: flex;
  align-items: center;
  gap: 8px;
  padding: 4px 0;
  border-top: 1px solid var(--warp);
}
.part .link {
  flex: 1;
  text-align: left;
}
.past {
  color: var(--husk);
}
.link {
  color: var(--amber);
  text-decoration: underline;
}
.wrong {
  color: var(--clay);
}
</style>
