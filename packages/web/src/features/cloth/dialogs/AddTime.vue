<script setup lang="ts">
import { minuteWords } from '../../../ui/telling.ts'
import { type ClothItem, longDayWords, type Making, type PersonSettings, type Said } from '@loom/core/view'
import { Button, Input } from 'ant-design-vue'
import { computed, nextTick, onMounted, reactive, ref, useTemplateRef } from 'vue'
import ChooseSome from '../../../ui/ChooseSome.vue'
import { useLineList } from '../../../ui/line-list.ts'
import { useFloatingBy } from '../../../ui/floating.ts'
import SentenceChoice from '../../../ui/SentenceChoice.vue'
import type { Drawn } from '../drag/draw-span.ts'
import {
  AS,
  batchMaking,
  EVERY,
  eventMaking,
  hoursIn,
  KINDS,
  type Marked,
  markedIn,
  planFor,
  SHOWN,
  troubleIn,
  type Written,
} from '../data/adding-time.ts'
import { blockMaking, usualKept } from '../data/further-time.ts'
import MarkedTime from '../grid/MarkedTime.vue'
import SeenByOthers from '../item/SeenByOthers.vue'
import type { Source } from '../data/signs.ts'
import ChooseDay from '../../../ui/ChooseDay.vue'

/**
 * Asks what marked time is for, in one field. A picked task gets this time; other words make an event or a batch,
 * with further details in a sentence.
 */
const props = defineProps<{
  drawn: Drawn
  zone: string
  tasks: readonly ClothItem[]
  sources: readonly Source[]
  people: readonly { id: string; name: string }[]
  me: string
  settings: PersonSettings
  /** What keeps it in sight in the view that is looked at. */
  given: Said
  allDay: boolean
  /** Whether a work window can be made of it here. */
  windows: boolean
}>()
const emit = defineEmits<{
  make: [making: Making, said: string]
  window: [given: { name: string; date: string; start: number; end: number }]
  offer: [given: { title: string; date: string; from: number; to: number }]
  close: []
}>()

const text = ref('')
const field = ref<{ focus: () => void } | null>(null)

const written = reactive<Written>({
  allDay: props.allDay,
  date: props.drawn.date,
  last: props.drawn.date,
  from: minuteWords(props.drawn.from),
  to: minuteWords(props.drawn.to % 1440),
})
const marked = computed(() => markedIn(written, props.zone))
const spanWords = computed(() => {
  const { allDay, date, last } = written
  const hours = hoursIn(written)
  const day = longDayWords(date || props.drawn.date)
  if (!allDay) return hours ? `${day}, ${minuteWords(hours.from)}–${minuteWords(hours.to)}` : day
  return last > date ? `${day} to ${longDayWords(last)}` : day
})

const calendars = computed(() => props.sources.filter(s => s.itemKind === 'event' && s.writable))
const ownEvents = computed(() => calendars.value.find(s => s.own && s.name === 'Own events')?.id ?? '')
const plan = reactive(planFor(usualKept(props.settings)))
const whereOptions = computed(() => [
  { value: '', label: 'Amber Loom only' },
  ...calendars.value.filter(s => !s.own).map(s => ({ value: s.id, label: `${s.name} (${s.service})` })),
])
const guestOptions = computed(() =>
  props.people.filter(p => p.id !== props.me).map(p => ({ value: p.id, label: p.name })),
)

interface Line {
  key: string
  name: string
  hint: string
  run: () => void
}
const matching = computed(() => {
  const words = text.value.toLowerCase().split(/\s+/).filter(Boolean)
  return props.tasks
    .filter(t => words.every(w => t.title.toLowerCase().includes(w)))
    .slice(0, words.length === 0 ? 4 : 6)
})
const lines = computed((): Line[] => {
  const title = text.value.trim()
  const tasks = matching.value.map(t => ({
    key: t.key,
    name: t.title,
    hint: t.place.kind === 'none' ? 'its time' : 'further time for it',
    run: () => take(t),
  }))
  const offer = {
    key: 'offer',
    name: title ? `“${title}”` : 'Offer it to a guest',
    hint: title ? 'offered to a guest, who books it' : 'who books it',
    run: makeOffer,
  }
  const offers = props.windows && !written.allDay ? [offer] : []
  if (!title) return [...tasks, ...offers]
  const kind = KINDS.find(k => k.value === plan.kind)?.label ?? 'an event'
  return [
    { key: 'event', name: `“${title}”`, hint: kind, run: makeEvent },
    { key: 'batch', name: `“${title}”`, hint: 'a batch, to drop tasks into', run: makeBatch },
    ...(props.windows && !written.allDay
      ? [
          {
            key: 'window',
            name: `“${title}”`,
            hint: 'a work window, at this time each week',
            run: makeWindow,
          },
        ]
      : []),
    ...offers,
    ...tasks,
  ]
})

const trouble = computed(() => troubleIn(plan, written, marked.value))
const told = ref(false)
/** Errors are shown after the first try; typed text stays. */
function ready(): Marked | null {
  told.value = trouble.value !== null
  return told.value ? null : marked.value
}
function makeEvent(): void {
  const at = ready()
  if (!at) return
  const making = eventMaking(text.value, at, plan, props.given, ownEvents.value)
  emit('make', making, `${making.title}: ${spanWords.value}.`)
}
function makeBatch(): void {
  const at = ready()
  if (!at) return
  const making = batchMaking(text.value, at, plan, props.given)
  emit('make', making, `${making.title}: a batch, ${spanWords.value}. Drop tasks into it.`)
}
/** For which tasks it is, is asked beside the Cloth. */
function makeWindow(): void {
  const hours = ready() && hoursIn(written)
  if (hours)
    emit('window', {
      name: text.value.trim().slice(0, 100),
      date: written.date,
      start: hours.from,
      end: hours.to,
    })
}
/** On which terms, is asked beside the Cloth; further times are drawn there. */
function makeOffer(): void {
  const hours = ready() && hoursIn(written)
  if (hours) emit('offer', { title: text.value.trim().slice(0, 200), date: written.date, ...hours })
}
/** A task without a time gets this one; one that has a time gets a further block. */
function take(task: ClothItem): void {
  const at = ready()
  if (at)
    emit('make', blockMaking(task.key, at.start, at.minutes, plan.kept), `${task.title}: ${spanWords.value}.`)
}

const { chosen, onKey } = useLineList(lines)
const panel = useTemplateRef<HTMLElement>('panel')
const place = useFloatingBy(() => props.drawn.box, panel)
function outside(event: Event): void {
  if (event.target === event.currentTarget) emit('close')
}
onMounted(() => void nextTick(() => field.value?.focus()))
</script>

<template>
  <div class="veil" @pointerdown="outside">
    <div
      ref="panel"
      class="panel"
      role="dialog"
      :aria-label="`Add time, ${spanWords}`"
      :style="place"
      @keydown.esc.stop="emit('close')"
    >
      <MarkedTime v-model="written" :words="spanWords" :marked="marked" />
      <Input
        ref="field"
        v-model:value="text"
        placeholder="What is this time for?"
        aria-label="What is this time for?"
        role="combobox"
        aria-expanded="true"
        aria-controls="time-lines"
        :aria-activedescendant="lines[chosen] ? `time-${lines[chosen]?.key}` : undefined"
        :maxlength="500"
        @keydown="onKey"
        @input="chosen = 0"
      />
      <div id="time-lines" class="lines" role="listbox" aria-label="What it can be for">
        <div
          v-for="(l, i) in lines"
          :id="`time-${l.key}`"
          :key="l.key"
          class="line"
          role="option"
          :aria-selected="i === chosen"
          @click="l.run"
          @pointermove="chosen = i"
        >
          <span class="name">{{ l.name }}</span><span class="quiet">{{ l.hint }}</span>
        </div>
        <p v-if="lines.length === 0" class="quiet">Type what it is for, or part of a task’s title.</p>
      </div>
      <p class="say">
        <template v-if="text.trim()"
          >It is <SentenceChoice v-model="plan.kind" :options="KINDS" name="Kind" />, kept in
          <SentenceChoice
            :model-value="plan.into ?? ''"
            :options="whereOptions"
            name="Kept in"
            @update:model-value="v => (plan.into = v === '' ? null : v)"
          />, shown as <SentenceChoice v-model="plan.as" :options="AS" name="Shown as" /> to
          <SentenceChoice v-model="plan.shown" :options="SHOWN" name="Shown to" />,
          <SentenceChoice v-model="plan.every" :options="EVERY" name="Repeats" /><span
            v-if="plan.every !== 'once'"
            class="until"
          >
            until
            <ChooseDay v-model="plan.until" name="Last day" small :min="drawn.date" /></span
          >, with
          <ChooseSome
            v-model="plan.guests"
            name="Guests"
            :label="plan.guests.length === 0 ? 'nobody' : `${plan.guests.length} of the team`"
            :options="guestOptions"
          />.</template
        >
        <template v-else
          >Time for a task is kept in
          <SentenceChoice
            :model-value="plan.kept.into ?? ''"
            :options="whereOptions"
            name="Blocks are kept in"
            @update:model-value="v => (plan.kept.into = v === '' ? null : v)"
          /><template v-if="plan.kept.into">, <SeenByOthers v-model="plan.kept" /></template
          ><template v-else>: no calendar is filled with it</template>.</template
        >
      </p>
      <div v-if="text.trim()" class="more">
        <Input
          v-model:value="plan.location"
          size="small"
          placeholder="Place"
          aria-label="Place"
          :maxlength="500"
        />
        <Input
          v-model:value="plan.url"
          size="small"
          placeholder="Call link (https://…)"
          aria-label="Call link"
          :maxlength="1000"
        />
        <Input
          v-model:value="plan.others"
          class="wide"
          size="small"
          placeholder="Guests from outside: their addresses"
          aria-label="Guests from outside"
          :maxlength="1000"
        />
      </div>
      <p v-if="told && trouble" class="wrong" role="alert">{{ trouble }}</p>
      <div class="foot">
        <Button type="primary" :disabled="!lines[chosen]" @click="lines[chosen]?.run()">Add</Button>
        <Button @click="emit('close')">Cancel</Button>
      </div>
    </div>
  </div>
</template>

<style scoped>
.veil {
  position: fixed;
  inset: 0;
  z-index: 800;
}
.panel {
  position: fixed;
  width: 420px;
  box-sizing: border-box;
  max-width: calc(100vw - 16px);
  padding: 12px 14px;
  display: grid;
  gap: 8px;
  background: var(--cloth);
  border: 1px solid var(--warp-strong);
  border-top: 3px solid var(--amber);
  border-radius: 3px;
  box-shadow: var(--float);
}
.line {
  display: flex;
  justify-content: space-between;
  gap: 10px;
  padding: 4px 8px;
  cursor: pointer;
  border-radius: 2px;
}
.line[aria-selected='true'] {
  background: var(--amber-wash);
}
.name {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.line .quiet {
  white-space: nowrap;
}
.until .native {
  width: 140px;
  margin-left: 4px;
}
.wrong {
  margin: 0;
  color: var(--clay);
}
.say,
.lines p {
  margin: 0;
  line-height: 1.7;
}
.more {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 8px;
}
.wide {
  grid-column: 1 / -1;
}
.foot {
  display: flex;
  justify-content: flex-end;
  gap: 8px;
}
</style>
