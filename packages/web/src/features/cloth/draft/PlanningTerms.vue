<script setup lang="ts">
import {
  changedWindow,
  type PlanRegular,
  type Planning,
  type PlanWindow,
  type WhichDays,
  withoutWindow,
} from '@loom/core/planning'
import { type Travel, weekdayOf } from '@loom/core/view'
import { PhArrowUp, PhPlus } from '@phosphor-icons/vue'
import { computed, ref, watch } from 'vue'
import { newId } from '../../../api/new-id.ts'
import { usePlanning } from '../../../stores/planning.ts'
import { useAttempt } from '../../../ui/attempt.ts'
import type { Scene } from '../data/use-scene.ts'
import type { AskedWindow } from './use-draft.ts'
import { lunch, newRegular, newWindow, regularWords, windowWords } from './planning-words.ts'
import RegularForm from './RegularForm.vue'
import TravelForm from './TravelForm.vue'
import WindowForm from './WindowForm.vue'

/** Work windows and regulars: what there is, and a form for one of them. */
const props = defineProps<{ scene: Scene; planning: Planning; asked: AskedWindow | null }>()
const emit = defineEmits<{ close: []; answered: [] }>()

const { changeAndSay } = usePlanning()
const { attempt, reason, busy } = useAttempt()
const regular = ref<PlanRegular | null>(null)
const window = ref<PlanWindow | null>(null)
/** The day on which it was picked, where it was. */
const day = ref<string | null>(null)
const copyOf = (w: PlanWindow): PlanWindow => JSON.parse(JSON.stringify(w)) as PlanWindow
watch(
  () => props.asked,
  asked => {
    if (!asked) return
    const known = props.planning.windows.find(w => w.id === asked.id)
    day.value = known ? asked.date : null
    if (known) window.value = copyOf(known)
    else if (asked.id === null)
      window.value = {
        ...newWindow(newId(), props.scene.zone.value, asked.date),
        name: asked.name,
        start: asked.start,
        end: asked.end,
        weekdays: [weekdayOf(asked.date)],
      }
  },
  { immediate: true },
)
function close(): void {
  window.value = null
  day.value = null
  emit('answered')
}

/** In place of the one with that id, which may be none. */
async function put(id: string, instead: PlanWindow[], said: string): Promise<void> {
  const { windows: all } = props.planning
  const windows = all.some(w => w.id === id)
    ? all.flatMap(w => (w.id === id ? instead : [w]))
    : [...all, ...instead]
  const form = window.value
  // Another one that was opened meanwhile stays.
  if ((await attempt(() => changeAndSay({ windows }, said))) && window.value === form) close()
}
function putWindow(next: PlanWindow, which: WhichDays): void {
  const known = props.planning.windows.find(w => w.id === next.id)
  const instead =
    known && day.value !== null ? changedWindow(known, next, { date: day.value, which, id: newId() }) : [next]
  void put(next.id, instead, `${next.name}: saved.`)
}
function dropWindow(gone: PlanWindow, which: WhichDays): void {
  const known = props.planning.windows.find(w => w.id === gone.id)
  if (!known) return
  const instead = day.value === null ? [] : withoutWindow(known, { date: day.value, which })
  const said = instead.length === 0 ? 'no longer a work window' : 'not on those days any more'
  void put(gone.id, instead, `${gone.name}: ${said}.`)
}
/** Before the one above it. */
function moveUp(n: number): void {
  const windows = [...props.planning.windows]
  const [moved] = windows.splice(n, 1)
  if (!moved) return
  windows.splice(n - 1, 0, moved)
  void attempt(() => changeAndSay({ windows }, `${moved.name}: further up.`))
}
async function putRegular(next: PlanRegular): Promise<void> {
  const known = props.planning.regulars.some(r => r.id === next.id)
  const regulars = known
    ? props.planning.regulars.map(r => (r.id === next.id ? next : r))
    : [...props.planning.regulars, next]
  const form = regular.value
  const done = await attempt(() => changeAndSay({ regulars }, `${next.name}: saved.`))
  if (done && regular.value === form) regular.value = null
}
const isTravelOpen = ref(false)
const MOST_LOCATIONS = 40
/** Where appointments of these days are. */
const locations = computed(() => {
  const all = (props.scene.data.value?.items ?? []).map(i => i.location.trim()).filter(Boolean)
  return [...new Set(all)].sort().slice(0, MOST_LOCATIONS)
})
async function putTravel(travel: Travel, showsWays: boolean): Promise<void> {
  if (await attempt(() => changeAndSay({ travel, showsWays }, 'Travel: saved.'))) isTravelOpen.value = false
}
async function dropRegular({ id, name }: PlanRegular): Promise<void> {
  const regulars = props.planning.regulars.filter(r => r.id !== id)
  if (await attempt(() => changeAndSay({ regulars }, `${name}: no longer a regular.`))) regular.value = null
}
</script>

<template>
  <div class="terms">
    <header>
      <h2>Work windows, regulars, travel</h2>
      <button type="button" class="push small" @click="emit('close')">Back to the draft</button>
    </header>
    <p v-if="reason" class="wrong" role="alert">{{ reason }}</p>

    <WindowForm
      v-if="window"
      :key="`${window.id} ${day}`"
      :window="window"
      :scene="scene"
      :is-new="!planning.windows.some(w => w.id === window?.id)"
      :day="day"
      :busy="busy"
      @save="putWindow"
      @remove="dropWindow"
      @close="close"
    />
    <RegularForm
      v-else-if="regular"
      :regular="regular"
      :is-new="!planning.regulars.some(r => r.id === regular?.id)"
      :busy="busy"
      @save="putRegular"
      @remove="dropRegular"
      @close="regular = null"
    />
    <TravelForm
      v-else-if="isTravelOpen"
      :travel="planning.travel"
      :shows-ways="planning.showsWays"
      :locations="locations"
      :busy="busy"
      @save="putTravel"
      @close="isTravelOpen = false"
    />
    <div v-else class="lists">
      <section aria-label="Work windows">
        <h3>Work windows</h3>
        <p class="quiet">
          Time that repeats and is kept for some of your tasks. Other work is not drafted into it.
        </p>
        <p v-if="planning.windows.length > 1" class="quiet">
          A task that may go to several goes to the one further up, where nothing else decides.
        </p>
        <ol v-if="planning.windows.length > 0" class="windows">
          <li v-for="(w, n) in planning.windows" :key="w.id">
            <button type="button" class="plain one" @click="window = copyOf(w)">
              <strong>{{ w.name }}</strong>
              <span class="quiet">{{ windowWords(w) }}</span>
            </button>
            <button
              v-if="planning.windows.length > 1"
              type="button"
              class="plain up"
              :disabled="busy || n === 0"
              :aria-label="`${w.name}: further up`"
              title="Further up"
              @click="moveUp(n)"
            >
              <PhArrowUp :size="15" />
            </button>
          </li>
        </ol>
        <button
          type="button"
          class="push small with-icon"
          @click="window = newWindow(newId(), scene.zone.value, scene.today.value)"
        >
          <PhPlus :size="13" /> Add a work window
        </button>
      </section>
      <section aria-label="Regulars">
        <h3>Regulars</h3>
        <p class="quiet">
          What you want to do so often a week. An event of the same name counts as done, or planned.
        </p>
        <button
          v-for="r in planning.regulars"
          :key="r.id"
          type="button"
          class="plain one"
          @click="regular = { ...r, within: { ...r.within } }"
        >
          <strong>{{ r.name }}</strong>
          <span class="quiet">{{ regularWords(r) }}</span>
        </button>
        <span class="adds">
          <button type="button" class="push small with-icon" @click="regular = newRegular(newId())">
            <PhPlus :size="13" /> Add a regular
          </button>
          <button
            v-if="!planning.regulars.some(r => r.name === 'Lunch')"
            type="button"
            class="push small with-icon"
            @click="regular = lunch(newId())"
          >
            <PhPlus :size="13" /> Add lunch
          </button>
        </span>
      </section>
      <section aria-label="Travel">
        <h3>Travel</h3>
        <p class="quiet">
          The way to appointments takes time as well. It is drawn beside them, counts in your load, and is
          written nowhere.
        </p>
        <p v-if="planning.travel.places.length > 0" class="quiet">
          {{ planning.travel.places.map(p => `${p.name} ${p.minutes} min`).join(', ') }}
        </p>
        <button type="button" class="push small" @click="isTravelOpen = true">
          {{ planning.travel.places.length > 0 ? 'Change places' : 'Add places' }}
        </button>
      </section>
    </div>
  </div>
</template>

<style scoped>
.terms {
  overflow: auto;
  padding: 12px 14px;
}
header {
  display: flex;
  justify-content: space-between;
  align-items: baseline;
  gap: 10px;
  margin-bottom: 8px;
}
.lists,
section {
  display: grid;
  gap: 8px;
  justify-items: start;
}
.lists {
  gap: 18px;
}
h3,
p {
  margin: 0;
}
.one {
  display: grid;
  justify-self: stretch;
  text-align: left;
  padding: 6px 8px;
  border: 1px solid var(--warp);
  border-radius: 3px;
  background: var(--cloth);
}
.windows {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  gap: 8px;
  justify-self: stretch;
}
.windows li {
  display: flex;
  align-items: stretch;
}
.windows .one {
  flex: 1;
  min-width: 0;
}
.up {
  display: grid;
  place-items: center;
  min-width: 32px;
}
.up:disabled {
  opacity: 0.3;
}
.one:hover {
  border-color: var(--amber);
}
.adds {
  display: flex;
  gap: 8px;
}
.wrong {
  color: var(--clay);
}
</style>
