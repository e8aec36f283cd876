<script setup lang="ts">
import {
  type ClothItem,
  durationWords,
  type Edit,
  EventKind,
  isOurMark,
  onDate,
  safeLink,
  type Said,
  SAID_WORDS,
} from '@loom/core/view'
import { InputNumber } from 'ant-design-vue'
import { computed, ref } from 'vue'
import type { ItemDetails } from '../data/details.ts'
import ChooseOne from '../../../ui/ChooseOne.vue'
import { type Source, storedIn } from '../data/signs.ts'
import ItemGuests from './ItemGuests.vue'
import SameAs from './SameAs.vue'
import ChooseDay from '../../../ui/ChooseDay.vue'
import { STATUS_CHOICES } from '../../../ui/status-choices.ts'

/** The fields of an item, each editable where its service allows it. */
const props = defineProps<{
  item: ClothItem
  details: ItemDetails
  sources: readonly Source[]
  /** Its place in words. */
  when: string
  zone: string
}>()
const emit = defineEmits<{
  edit: [edit: Edit]
  go: [key: string]
  ask: [act: 'place' | 'give']
  /** Only what has this category. */
  only: [category: string]
  /** The two sides of this pair are not the same work. */
  part: [tie: string]
  /** It reads otherwise now. */
  settled: []
}>()

const isTask = computed(() => props.item.kind === 'task' || props.item.kind === 'tied')
/** A task leads; an event says what only events have. */
const can = (what: keyof Said): boolean => {
  const { task, event } = props.details
  const side = task ?? event
  return side !== null && side.writable && !side.unsupported.includes(what)
}
/** Where something takes place its event says, if there is one. */
const canPlace = computed(() => {
  const side = props.details.event ?? props.details.task
  return side !== null && side.writable && !side.unsupported.includes('location')
})
/** What its service has no room for, of what is shown here. */
const lacking = computed(() => {
  const { task } = props.details
  const asked: (keyof Said)[] = ['due', 'priority', 'categories']
  return task?.writable
    ? asked.filter(what => task.unsupported.includes(what)).map(what => SAID_WORDS[what])
    : []
})
/** Only what may be followed is a link. */
const link = computed(() => safeLink(props.details.url ?? ''))
const say = (said: Said): void => emit('edit', { do: 'say', said })

const due = computed(() =>
  props.details.due?.kind === 'date' ? props.details.due.date : (props.item.due ?? ''),
)
function setDue(value: string): void {
  say({ due: value === '' ? null : onDate(value) })
}
const PRIORITIES = [
  { value: 0, label: 'none' },
  { value: 1, label: 'high' },
  { value: 5, label: 'medium' },
  { value: 9, label: 'low' },
]
const priority = computed(() => {
  const p = props.item.priority
  return p === 0 ? 0 : p <= 3 ? 1 : p <= 6 ? 5 : 9
})
const statuses = computed(() =>
  STATUS_CHOICES.filter(
    s => s.value === props.item.status || !props.details.task?.unsupported.includes(`status:${s.value}`),
  ),
)
const KINDS = EventKind.options
  .filter(k => k !== 'task block' && k !== 'batch')
  .map(value => ({ value, label: value }))
const BUSY = [
  { value: 'opaque' as const, label: 'busy' },
  { value: 'transparent' as const, label: 'free' },
]
const CLASS = [
  { value: 'public' as const, label: 'everybody' },
  { value: 'private' as const, label: 'private' },
  { value: 'confidential' as const, label: 'confidential' },
]
const spent = computed(() => props.item.blocks.spent)
const planned = computed(() => props.item.blocks.ahead)
const wrongLink = ref(false)
function setLink(event: Event): void {
  const url = (event.target as HTMLInputElement).value.trim()
  wrongLink.value = url !== '' && !/^https?:\/\/\S+$/.test(url)
  if (!wrongLink.value) say({ url: url || null })
}
const ownCategories = computed(() => props.item.categories.filter(c => !isOurMark(c)))
function categoriesFrom(event: Event): void {
  const list = (event.target as HTMLInputElement).value
    .split(',')
    .map(c => c.trim())
    .filter(Boolean)
  say({ categories: list })
}
</script>

<template>
  <dl class="facts">
    <dt>When</dt>
    <dd class="line">
      {{ when }}
      <button v-if="item.movable" type="button" class="plain link" @click="emit('ask', 'place')">
        {{ item.place.kind === 'none' ? 'place at…' : 'move to…' }}
      </button>
      <span v-else-if="item.fixedBecause && !item.onlyLook" class="quiet">{{ item.fixedBecause }}</span>
    </dd>
    <template v-if="isTask">
      <dt>Status</dt>
      <dd>
        <ChooseOne
          :model-value="item.status"
          name="Status"
          :options="statuses"
          :disabled="!can('status')"
          @update:model-value="status => status && say({ status })"
        />
        <span v-if="details.statusThere" class="quiet"> called “{{ details.statusThere }}” there</span>
      </dd>
      <dt><label for="drawer-due">Due</label></dt>
      <dd>
        <ChooseDay
          id="drawer-due"
          small
          :model-value="due"
          :disabled="!can('due')"
          @update:model-value="setDue"
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
          :disabled="!details.mayChange"
          @change="v => emit('edit', { do: 'estimate', minutes: typeof v === 'number' ? v : null })"
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
          :disabled="!can('priority')"
          @update:model-value="p => p !== null && say({ priority: p })"
        />
      </dd>
      <dt>Assigned to</dt>
      <dd class="line">
        {{ details.assignees.map(a => a.name).join(', ') || 'nobody' }}
        <button v-if="can('assignees')" type="button" class="plain link" @click="emit('ask', 'give')">
          give to…
        </button>
      </dd>
    </template>
    <template v-if="item.location || canPlace">
      <dt><label for="drawer-where">Place</label></dt>
      <dd>
        <input
          id="drawer-where"
          class="native"
          :value="item.location"
          :disabled="!canPlace"
          maxlength="500"
          @change="e => say({ location: (e.target as HTMLInputElement).value })"
        />
      </dd>
    </template>
    <template v-if="details.event">
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
            :disabled="!details.mayChange"
            @update:model-value="kind => kind && emit('edit', { do: 'kind', kind })"
          />
        </dd>
        <template v-if="details.guests">
          <dt class="top">Guests</dt>
          <dd>
            <ItemGuests
              :item="details.event.key"
              :guests="details.guests"
              :zone="zone"
              :may-change="details.event.writable && !item.recurring"
              :may-settle="details.event.writable && details.mayChange"
              @settled="emit('settled')"
              @edit="edit => emit('edit', edit)"
            />
          </dd>
        </template>
      </template>
    </template>
    <template v-if="details.keptPrivate !== null">
      <dt>Colleagues</dt>
      <dd class="line">
        {{ details.keptPrivate ? 'see only that the time is taken' : 'see what its list shows them' }}
        <button
          type="button"
          class="plain link"
          @click="emit('edit', { do: 'keep-private', private: !details.keptPrivate })"
        >
          {{ details.keptPrivate ? 'show it again' : 'keep it private' }}
        </button>
      </dd>
    </template>
    <dt><label for="drawer-categories">Categories</label></dt>
    <dd>
      <input
        id="drawer-categories"
        class="native"
        :value="item.categories.join(', ')"
        :disabled="!can('categories')"
        placeholder="words, with commas between"
        maxlength="500"
        @change="categoriesFrom"
      />
      <button
        v-for="c in ownCategories"
        :key="c"
        type="button"
        class="plain link only"
        @click="emit('only', c)"
      >
        only {{ c }}
      </button>
    </dd>
    <template v-if="!can('url') && link">
      <dt>Link</dt>
      <dd>
        <a :href="link" target="_blank" rel="noopener noreferrer">Open in its service</a>
      </dd>
    </template>
    <dt v-if="can('url')"><label for="drawer-link">Link</label></dt>
    <dd v-if="can('url')" class="line">
      <input
        id="drawer-link"
        class="native grow"
        type="url"
        :value="details.url ?? ''"
        placeholder="https://…"
        maxlength="2000"
        @change="setLink"
      />
      <a v-if="link" :href="link" target="_blank" rel="noopener noreferrer">open</a>
      <span v-if="wrongLink" class="wrong" role="alert">A link begins with https:// and has no spaces.</span>
    </dd>
    <dt>Stored in</dt>
    <dd>
      <template v-for="(s, i) in storedIn(item, sources)" :key="s.id">
        {{ i > 0 ? ' ⇄ ' : ''
        }}<RouterLink :to="`/lists/${s.id}`" title="Who sees it">{{ s.words }}</RouterLink>
      </template>
      <span v-if="lacking.length > 0" class="quiet"> · not supported there: {{ lacking.join(', ') }}</span>
    </dd>
    <template v-if="details.rule">
      <dt>Kept in step by</dt>
      <dd>
        <RouterLink :to="`/rules/${details.rule.id}`">{{ details.rule.name }}</RouterLink>
        <button type="button" class="plain link part" @click="emit('part', details.rule.tie)">
          These are not the same
        </button>
      </dd>
    </template>
    <SameAs v-else-if="!item.recurring && item.of === null" :key="item.key" :item="item" :zone="zone" />
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
</template>

<style scoped>
a {
  text-decoration: underline;
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
.top {
  align-self: start;
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
.grow {
  flex: 1;
  min-width: 120px;
}
.wrong {
  color: var(--clay);
}
.only {
  margin-right: 10px;
  font-size: 13px;
}
.link {
  color: var(--amber);
  text-decoration: underline;
}
</style>
