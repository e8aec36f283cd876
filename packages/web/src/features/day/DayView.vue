<script setup lang="ts">
import {
  addDays,
  type ClothItem,
  dateNames,
  dayPlan,
  durationWords,
  eveningFrom,
  isWay,
  longDayWords,
  plainView,
  type ViewBody,
  wayOf,
  wayToFit,
  withTravel,
  zonedAt,
} from '@loom/core/view'
import { useQuery } from '@pinia/colada'
import { computed, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import { useMine } from '../../stores/mine.ts'
import { usePlanning } from '../../stores/planning.ts'
import { useOffering } from '../cloth/offers/use-offering.ts'
import { type DaysToTell, useChats } from '../../stores/chat.ts'
import { useFocus } from '../../stores/focus.ts'
import { useWaitLines } from '../../stores/waits.ts'
import { minuteWords } from '../../ui/telling.ts'
import { partInOurTheme } from '../../ui/in-our-theme.ts'
import { useActs } from '../cloth/acts/use-acts.ts'
import ClothDialogs from '../cloth/ClothDialogs.vue'
import { DaysCache } from '../cloth/data/days-cache.ts'
import { usualKept } from '../cloth/data/further-time.ts'
import { provideShownFacts } from '../cloth/data/shown-facts.ts'
import { useScene } from '../cloth/data/use-scene.ts'
import type { View } from '../cloth/data/use-view.ts'
import { useDrag } from '../cloth/drag/drag.ts'
import '../cloth/drag/drag.css'
import ClothHours from '../cloth/grid/ClothHours.vue'
import ClothList from '../cloth/grid/ClothList.vue'
import ChosenBar from '../cloth/shelf/ChosenBar.vue'
import DayDone from './DayDone.vue'
import DayFree from './DayFree.vue'
import DayKeptUp from './DayKeptUp.vue'
import DayNew from './DayNew.vue'
import DayPlanned from './DayPlanned.vue'
import DayStatus from './DayStatus.vue'
import DayReminders from './DayReminders.vue'
import DayUnfinished from './DayUnfinished.vue'

/** One page for a day: what is left over, what is planned, and whether it fits what is left of the day. */

const SendDays = partInOurTheme(() => import('../chat/SendDays.vue'))
const ItemDrawer = partInOurTheme(() => import('../cloth/item/ItemDrawer.vue'))

const body = computed((): ViewBody => ({ ...plainView, span: 'day', rows: 'days' }))
/** The day is shown as it is, whatever view the Cloth has. */
const view: Pick<View, 'body' | 'set'> = { body, set: () => undefined }
const router = useRouter()
const mine = useMine()
const isThere = ref(false)
const { planning, changeOrSay } = usePlanning(() => isThere.value)
const travelling = (items: readonly ClothItem[]): ClothItem[] =>
  withTravel(items, planning.value.travel, data.value?.me ?? '')
const scene = useScene(view as View, travelling)
const { spansOn: offeredOn } = useOffering(scene, () => isThere.value)
const { cloth, data, now, zone, today } = scene
watch(
  () => data.value !== undefined,
  is => (isThere.value = is),
  { immediate: true },
)
provideShownFacts({
  shows: computed(() => body.value.shows),
  sources: scene.sources,
  nameOf: scene.nameOf,
  dyes: scene.dyes,
  waitsFor: useWaitLines(() => isThere.value).titlesOf,
})
const root = ref<HTMLElement | null>(null)
const acts = useActs({ scene, view: view as View, root })
const drag = useDrag({
  root,
  itemOf: cloth.itemOf,
  axis: () => scene.axis.value,
  defaultMinutes: () => data.value?.defaultMinutes ?? 30,
  zone: () => zone.value,
  now: () => now.value,
  freeAround: scene.freeAround,
  kept: () => usualKept(mine.settings.value),
  calendars: acts.calendars,
  drop: acts.drop,
  draw: acts.draw,
})
function openMenu(item: ClothItem, at: DOMRect): void {
  const of = isWay(item.key) ? cloth.itemOf(wayOf(item.key)) : item
  if (of && !drag.justDropped()) acts.openMenu(of, at)
}

/** Where something can go to: the days after this one. */
const AHEAD_DAYS = 8
const known = new DaysCache()
const ahead = useQuery({
  key: () => ['cloth', today.value, AHEAD_DAYS, 'day'],
  query: () => known.load(today.value, AHEAD_DAYS),
  enabled: () => data.value !== undefined,
})
const aheadItems = computed(() => travelling(ahead.data.value?.items ?? []))

const terms = computed(() => ({
  me: data.value?.me ?? '',
  now: now.value,
  zone: zone.value,
  hours: scene.hoursOf(data.value?.me ?? ''),
  defaultMinutes: data.value?.defaultMinutes ?? 30,
}))
const plan = computed(() => dayPlan(travelling(data.value?.items ?? []), terms.value))
const way = computed(() =>
  plan.value.left.over > 0 && ahead.data.value ? wayToFit(plan.value, aheadItems.value, terms.value) : null,
)
async function makeFit(): Promise<void> {
  const { moves: found, over } = way.value ?? { moves: [], over: 0 }
  const fits = over > 0 ? '' : ', and the day fits'
  await cloth.editMany(
    found.map(({ item, startMs }) => ({
      item,
      edit: { do: 'place' as const, start: zonedAt(startMs, zone.value) },
    })),
    found.length === 1 ? `${found[0]?.item.title}: moved${fits}.` : `${found.length} moved${fits}.`,
  )
}

const minute = computed(() => scene.nowMinute(today.value) ?? 0)
const evening = computed(() => eveningFrom(terms.value.hours))
const isEvening = computed(() => minute.value >= evening.value)

const matters = computed(() =>
  planning.value.matters.date === today.value ? planning.value.matters.keys : [],
)
function toggleMatters(item: ClothItem): void {
  const keys = matters.value.includes(item.key)
    ? matters.value.filter(k => k !== item.key)
    : [...matters.value, item.key]
  void changeOrSay({ matters: { date: today.value, keys: keys.slice(-3) } })
}
const tomorrow = computed(() => addDays(today.value, 1))
const { chats } = useChats()
const sending = ref<DaysToTell | null>(null)
function sendDay(): void {
  const of = { person: data.value?.me ?? '' }
  sending.value = { from: today.value, days: 1, of, name: 'this day' }
}
const FOCUS_MINUTES = 50
const focus = useFocus()
const heading = computed(() => longDayWords(today.value))
const year = computed(() => dateNames(today.value).year)
</script>

<template>
  <main ref="root" class="day" @keydown="acts.onItemKey">
    <header class="head">
      <h1>{{ heading }}</h1>
      <span class="quiet"
        >{{ isEvening ? 'looking back' : `from ${minuteWords(evening)} this page shows what got done`
        }}<span class="visually-hidden"> {{ year }}</span></span
      >
      <span class="spacer" />
      <template v-if="data">
        <button
          v-if="focus.untilMs.value === null"
          type="button"
          class="push small"
          title="Messages wait, and chats are told where you want that"
          @click="focus.begin(now + FOCUS_MINUTES * 60_000)"
        >
          Focus for {{ FOCUS_MINUTES }} min
        </button>
        <button v-if="chats.length > 0" type="button" class="push small" @click="sendDay">
          Send to a chat
        </button>
        <span class="quiet parts"
          >Still ahead: {{ durationWords(plan.left.fixed) }} fixed ·
          {{ durationWords(plan.left.placed) }} placed · {{ durationWords(plan.left.untimed) }} without an
          hour{{
            plan.left.withoutEstimate > 0 ? `, ${plan.left.withoutEstimate} of them without estimate` : ''
          }}</span
        >
      </template>
    </header>

    <p v-if="cloth.trouble.value && !data" class="sheet notice" role="alert">{{ cloth.trouble.value }}</p>
    <p v-else-if="!data" class="quiet notice">Fetching the day…</p>
    <template v-else>
      <ClothList
        v-if="scene.drawnAs.value === 'list'"
        :rows="scene.listRows.value"
        :zone="zone"
        :sources="scene.sources.value"
        :held="drag.held.current"
        @toggle="acts.toggle"
        @menu="openMenu"
      />
      <ClothHours
        v-else
        class="dayrow"
        :scene="scene"
        :held="drag.held.current"
        :windows="planning.windows"
        :offered-on="offeredOn"
        @toggle="acts.toggle"
        @menu="openMenu"
        @load="acts.openLoad"
        @tick="acts.tick"
        @window="(id, day) => router.push({ path: '/cloth', query: { draft: 'week', window: id, day } })"
      />
      <div class="columns">
        <div class="column">
          <DayDone v-if="isEvening" :plan="plan" :today="today" always @all="acts.change" @menu="openMenu" />
          <DayUnfinished
            :plan="plan"
            :today="today"
            :item-of="cloth.itemOf"
            :default-minutes="data.defaultMinutes"
            @decide="(item, edit) => acts.change(item, edit)"
            @all="(edits, said) => cloth.editMany(edits, said)"
            @give="item => acts.askFor('give', item)"
            @cancel="item => acts.change(item, { do: 'cancel' })"
            @menu="openMenu"
          />
          <DayDone
            v-if="!isEvening"
            :plan="plan"
            :today="today"
            :always="false"
            @all="acts.change"
            @menu="openMenu"
          />
        </div>
        <div class="column">
          <DayPlanned
            :plan="plan"
            :way="way"
            :zone="zone"
            :matters="matters"
            :default-minutes="data.defaultMinutes"
            @menu="openMenu"
            @toggle="acts.toggle"
            @matters="toggleMatters"
            @fit="makeFit"
          />
          <DayNew :zone="zone" @open="acts.openKey" />
        </div>
        <div class="column">
          <DayFree
            :items="aheadItems"
            :is-there="ahead.data.value !== undefined"
            :terms="terms"
            :today="today"
            :tomorrow="tomorrow"
          />
          <DayKeptUp :now="now" :zone="zone" @open="acts.openKey" />
          <DayStatus :tells="planning.tellsStatus" @change="tellsStatus => changeOrSay({ tellsStatus })" />
          <DayReminders :reminders="planning.reminders" @change="reminders => changeOrSay({ reminders })" />
        </div>
      </div>
      <ChosenBar
        v-if="acts.chosen.value.length > 0"
        :items="acts.chosenItems()"
        :now="now"
        :zone="zone"
        :default-minutes="data.defaultMinutes"
        @act="outcome => acts.chosenItems()[0] && acts.perform(acts.chosenItems()[0]!, outcome)"
        @clear="acts.chosen.value = []"
      />
      <ClothDialogs :acts="acts" :scene="scene" />
      <SendDays v-if="sending" :told="sending" @close="sending = null" />
      <ItemDrawer
        v-if="acts.opened.value"
        :item="acts.opened.value"
        :zone="zone"
        :now="now"
        :sources="scene.sources.value"
        @edit="acts.change"
        @go="acts.openKey"
        @ask="acts.askFor"
        @batch="acts.setBatch"
        @close="acts.closeDrawer"
      />
    </template>
  </main>
</template>

<style scoped>
.day {
  --label: 116px;
  --head: 172px;
  padding: 10px 14px 24px;
}
.head {
  display: flex;
  flex-wrap: wrap;
  align-items: baseline;
  gap: 4px 12px;
  margin-bottom: 10px;
}
.spacer {
  flex: 1;
}
.parts {
  font-size: 12.5px;
}
.notice {
  padding: 28px;
}
.columns {
  display: grid;
  grid-template-columns: minmax(0, 5fr) minmax(0, 4fr) minmax(0, 3fr);
  gap: 14px;
  margin-top: 14px;
  align-items: start;
}
.column {
  display: grid;
  gap: 14px;
}
@media (max-width: 1000px) {
  .columns {
    grid-template-columns: minmax(0, 1fr);
  }
}
@media (max-width: 720px) {
  .day {
    --label: 100px;
    --head: 110px;
  }
}
/* On paper: the day, what is left over, what is planned, beside one another; nothing that only a screen can do. */
@media print {
  .day {
    padding: 0;
    zoom: 0.86;
  }
  .columns {
    grid-template-columns: minmax(0, 5fr) minmax(0, 4fr) minmax(0, 3fr);
  }
  .day :deep(.push),
  .day :deep(.chips),
  .day :deep(.mark),
  .day :deep(.status),
  .day :deep(.reminders) {
    display: none;
  }
  .day :deep(.sheet) {
    break-inside: avoid;
  }
}
.day :deep([data-chosen]) {
  outline: 2px solid var(--amber);
}
</style>
