<script setup lang="ts">
import {
  addDays,
  type Alike,
  type ClothItem,
  dateNames,
  dayWords,
  durationWords,
  type Edit,
  type Lighten,
  onDate,
  shortName,
  type WaitingTask,
  zonedAt,
} from '@loom/core/view'
import { PhCaretLeft, PhCaretRight } from '@phosphor-icons/vue'
import { useEventListener } from '@vueuse/core'
import { computed, nextTick, onMounted, useTemplateRef } from 'vue'
import { useMine } from '../../../stores/mine.ts'
import { isForPage } from '../../../stores/own-keys.ts'
import { clockWords } from '../../../ui/telling.ts'
import { usualKept } from '../data/further-time.ts'
import type { Scene } from '../data/use-scene.ts'
import PrepareDays from './PrepareDays.vue'
import PrepareWaiting from './PrepareWaiting.vue'
import type { PrepareState } from './use-prepare.ts'

/** The week before it begins, beside the Cloth: what is new, what is free, what is too much, what waits. */
const props = defineProps<{ scene: Scene; prepare: PrepareState; chosen: readonly string[] }>()
const emit = defineEmits<{
  menu: [item: ClothItem, at: DOMRect]
  edit: [item: ClothItem, edit: Edit]
  choose: [item: ClothItem]
  draft: []
}>()

const mine = useMine()
const { cloth, zone } = props.scene
const plan = computed(() => props.prepare.plan.value)
const week = computed(() => props.prepare.week.value)
const isNow = computed(() => week.value <= props.scene.today.value)
const name = (date: string): string => shortName(dateNames(date).weekday)
const title = computed(() => {
  const last = dateNames(addDays(week.value, 6))
  const first = dateNames(week.value)
  const month = first.month === last.month ? '' : ` ${shortName(first.month)}`
  return `${first.day}${month} – ${last.day} ${shortName(last.month)}`
})
const waits = computed(() => (plan.value?.waiting ?? []).reduce((n, w) => n + w.minutes, 0))
const free = computed(() =>
  (plan.value?.days ?? []).reduce((n, d) => n + Math.max(0, d.load.capacity - d.load.committed), 0),
)
const proposals = computed(() =>
  (plan.value?.waiting ?? []).filter(w => w.proposal !== null && w.item.movable),
)
const windows = computed(() => props.prepare.planning.value.windows)
const regulars = computed(() => props.prepare.planning.value.regulars)

function takeAll(): void {
  const all = proposals.value
  if (all.length === 0) return
  void cloth.editMany(
    all.map(w => ({ item: w.item, edit: { do: 'place' as const, start: onDate(w.proposal ?? '') } })),
    all.length === 1 ? `${all[0]?.item.title}: planned.` : `${all.length} planned as proposed.`,
  )
}
function lighten(moves: readonly Lighten[]): void {
  void cloth.editMany(
    moves.map(({ item, date, startMs }) => ({
      item,
      edit: {
        do: 'place' as const,
        start: startMs === null ? onDate(date) : zonedAt(startMs, zone.value),
      },
    })),
    moves.length === 1 ? `${moves[0]?.item.title}: moved.` : `${moves.length} moved.`,
  )
}
const whereTo = ({ date, startMs }: Lighten): string =>
  startMs === null ? name(date) : `${name(date)} ${clockWords(startMs, zone.value)}`
async function together({ category, tasks, minutes, startMs }: Alike): Promise<void> {
  if (startMs === null) return
  const kept = usualKept(mine.settings.value)
  const transparency = kept.busy ? ('opaque' as const) : ('transparent' as const)
  const shown = kept.named ? ('public' as const) : ('private' as const)
  await cloth.make(
    {
      what: 'batch',
      title: category,
      tasks: tasks.map(t => t.key),
      start: zonedAt(startMs, zone.value),
      minutes: Math.max(15, minutes),
      repeats: null,
      into: kept.into,
      said: kept.into === null ? {} : { transparency, class: shown },
    },
    `${category}: ${tasks.length} tasks together, ${dayWords(dayOf(startMs))} ${clockWords(startMs, zone.value)}.`,
  )
}
const dayOf = (ms: number): string => {
  const at = zonedAt(ms, zone.value)
  return at.kind === 'zoned' ? at.local.slice(0, 10) : ''
}

/** On all that are chosen, where this is one of them. */
function place(task: WaitingTask, edit: Edit): void {
  const among = (plan.value?.waiting ?? []).filter(w => props.chosen.includes(w.item.key))
  const all = among.some(w => w.item.key === task.item.key) ? among : [task]
  if (all.length === 1) emit('edit', task.item, edit)
  else
    void cloth.editMany(
      all.map(w => ({ item: w.item, edit })),
      `${all.length} planned.`,
    )
}

const panel = useTemplateRef<HTMLElement>('panel')
onMounted(() => void nextTick(() => panel.value?.focus()))
const TAKE = 'a'
useEventListener('keydown', (event: KeyboardEvent) => {
  if (!isForPage(event) || event.key !== TAKE) return
  event.preventDefault()
  takeAll()
})
</script>

<template>
  <aside ref="panel" class="panel sheet" aria-label="Prepare the week" tabindex="-1">
    <header>
      <div class="top">
        <h2>Prepare {{ title }}</h2>
        <span class="steps">
          <button
            type="button"
            class="push small"
            aria-label="The week before"
            :disabled="isNow"
            @click="prepare.step(-1)"
          >
            <PhCaretLeft :size="13" />
          </button>
          <button type="button" class="push small" aria-label="The week after" @click="prepare.step(1)">
            <PhCaretRight :size="13" />
          </button>
          <button type="button" class="push small" @click="prepare.close">Close</button>
        </span>
      </div>
      <p v-if="plan" class="quiet">
        {{ plan.waiting.length }} wait, {{ durationWords(waits) }}; free {{ durationWords(free) }}
      </p>
    </header>
    <p v-if="!plan" class="quiet note">Looking at the week…</p>
    <div v-else class="scroll">
      <section v-if="prepare.people.value.length > 1" class="people" aria-label="Whose week">
        <button
          v-for="p in prepare.people.value"
          :key="p.id"
          type="button"
          class="plain person"
          :aria-pressed="p.id === prepare.terms.value.me"
          @click="prepare.of(p.id)"
        >
          <b>{{ p.name }}</b>
          <span :class="{ over: p.full.length > 0 }"
            >{{ durationWords(p.committed) }} of {{ durationWords(p.capacity) }}</span
          >
          <span v-if="p.full.length > 0" class="over">{{ p.full.map(name).join(', ') }} too full</span>
        </button>
      </section>
      <PrepareDays :days="plan.days" :name="name" />
      <section
        v-for="o in plan.overfull"
        :key="o.date"
        class="full"
        :aria-label="`${name(o.date)} is too full`"
      >
        <b>{{ name(o.date) }}: {{ durationWords(o.over) }} too much.</b>
        <button v-for="m in o.moves" :key="m.item.key" type="button" class="plain link" @click="lighten([m])">
          {{ m.item.title }} to {{ whereTo(m) }}
        </button>
        <button v-if="o.moves.length > 1" type="button" class="push small" @click="lighten(o.moves)">
          Move all {{ o.moves.length }}
        </button>
        <span v-if="o.rest > 0" class="quiet"
          >{{ o.moves.length === 0 ? 'Nothing of it can go to another day of this week.' : '' }}
          {{ o.moves.length > 0 ? `${durationWords(o.rest)} stay too much.` : '' }}</span
        >
      </section>
      <section v-if="prepare.fresh.value.length > 0" class="note" aria-label="New appointments">
        <b
          >{{ prepare.fresh.value.length }}
          {{ prepare.fresh.value.length === 1 ? 'appointment is' : 'appointments are' }} new since you
          prepared this week:</b
        >
        <button
          v-for="i in prepare.fresh.value.slice(0, 8)"
          :key="i.key"
          type="button"
          class="plain link"
          @click="e => emit('menu', i, (e.currentTarget as HTMLElement).getBoundingClientRect())"
        >
          {{ i.title }},
          {{
            i.place.kind === 'timed'
              ? `${name(dayOf(i.place.startMs))} ${clockWords(i.place.startMs, zone)}`
              : ''
          }}
        </button>
      </section>
      <p v-for="t in prepare.tooShort.value" :key="`${t.before} ${t.after}`" class="full">
        Between <b>{{ t.words[0] }}</b> and <b>{{ t.words[1] }}</b> there are {{ durationWords(t.gap) }}; the
        way takes {{ durationWords(t.needs) }}.
      </p>
      <section v-for="a in plan.alike" :key="a.category" class="note" :aria-label="`Alike: ${a.category}`">
        Alike and small: <b>{{ a.tasks.map(t => t.title).join(', ') }}</b>
        <span class="quiet">{{ durationWords(a.minutes) }} together</span>
        <button v-if="a.startMs !== null" type="button" class="plain link" @click="together(a)">
          Make a batch on {{ name(dayOf(a.startMs)) }} {{ clockWords(a.startMs, zone) }}
        </button>
        <span v-else class="quiet">No free span holds them before the first is due.</span>
      </section>
      <p v-if="windows.length + regulars.length > 0" class="note quiet">
        <template v-if="windows.length > 0"
          >Work windows: {{ windows.map(w => w.name).join(', ') }}.
        </template>
        <template v-if="regulars.length > 0"
          >Regulars: {{ regulars.map(r => `${r.name} ${r.timesAWeek}×`).join(', ') }}.
        </template>
        The draft fills them.
      </p>
      <PrepareWaiting
        :waiting="plan.waiting"
        :days="plan.days"
        :week="week"
        :chosen="chosen"
        :zone="zone"
        @place="place"
        @choose="item => emit('choose', item)"
        @menu="(item, at) => emit('menu', item, at)"
      />
    </div>
    <footer>
      <button
        v-if="proposals.length > 0"
        type="button"
        class="push"
        :title="`All as proposed (${TAKE.toUpperCase()})`"
        @click="takeAll"
      >
        Take {{ proposals.length === 1 ? 'the proposal' : `all ${proposals.length} proposals` }}
      </button>
      <button type="button" class="push primary" @click="emit('draft')">Draft the rest</button>
    </footer>
  </aside>
</template>

<style scoped>
.panel {
  position: fixed;
  inset: 58px 14px 14px auto;
  width: 376px;
  z-index: 600;
  display: flex;
  flex-direction: column;
  box-sizing: border-box;
  min-height: 0;
}
.panel:focus {
  outline: none;
}
header {
  padding: 12px 14px;
}
header p {
  margin: 2px 0 0;
}
.top {
  display: flex;
  justify-content: space-between;
  align-items: baseline;
  gap: 8px;
}
.steps {
  display: flex;
  gap: 4px;
}
.scroll {
  flex: 1;
  min-height: 0;
  overflow: auto;
  border-top: 1px solid var(--warp);
}
.people {
  display: grid;
  padding: 6px 14px;
  border-bottom: 1px solid var(--warp);
}
.person {
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto;
  gap: 0 10px;
  padding: 3px 6px;
  text-align: left;
}
.person .over:last-child {
  grid-column: 1 / -1;
  font-size: 12.5px;
}
.person[aria-pressed='true'] {
  background: var(--amber-wash);
  box-shadow: inset 3px 0 0 var(--amber);
}
.over {
  color: var(--clay);
}
.full,
.note {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 8px;
  margin: 0;
  padding: 8px 14px;
  border-bottom: 1px solid var(--warp);
}
.full {
  background: var(--clay-wash);
}
.link {
  color: var(--amber);
  text-decoration: underline;
  text-align: left;
}
footer {
  display: flex;
  gap: 8px;
  justify-content: flex-end;
  padding: 10px 14px;
  border-top: 1px solid var(--warp);
}
@media (max-width: 720px) {
  .panel {
    inset: 52px 0 0;
    width: auto;
  }
}
</style>
