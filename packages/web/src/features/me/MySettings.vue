<script setup lang="ts">
import { type PersonSettings, plainSettings } from '@loom/core/view'
import { useQuery } from '@pinia/colada'
import { Button, Checkbox, Input } from 'ant-design-vue'
import { computed, nextTick, reactive, ref, watch } from 'vue'
import { answer, api } from '../../api/client.ts'
import ChooseOne from '../../ui/ChooseOne.vue'
import { zoneChoices } from '../../ui/zones.ts'
import { useAttempt } from '../../ui/attempt.ts'
import { useMine } from '../../stores/mine.ts'
import { useSession } from '../../stores/session.ts'
import { minuteWords } from '../../ui/telling.ts'
import { minuteOf } from '../../ui/typed-hours.ts'
import { useUnsaved } from '../../stores/unsaved.ts'
import { type Kept, usualKept } from '../cloth/data/further-time.ts'
import SeenByOthers from '../cloth/item/SeenByOthers.vue'
import DaysOff from './DaysOff.vue'
import MyAccount from './MyAccount.vue'

/** What a member sets for themselves: when there is work, how time is told, where blocks go, mail. */
const mine = useMine()
const session = useSession()
const { busy, reason, attempt } = useAttempt()

const DAYS = ['Monday', 'Tuesday', 'Wednesday', 'Thursday', 'Friday', 'Saturday', 'Sunday']
const CLOCKS = [
  { value: '24' as const, label: 'from 0 to 23 (14:30)' },
  { value: '12' as const, label: 'from 1 to 12 (2:30 pm)' },
]
/** The end of a day is its twenty-fourth hour, on either clock. */
const endWords = (minute: number): string => (minute === 1440 ? '24:00' : minuteWords(minute))

const given = reactive({
  from: '08:00',
  to: '18:00',
  hours: DAYS.map(() => '6.5'),
  off: [] as string[],
  zone: '',
  settings: structuredClone(plainSettings) as PersonSettings,
})
const saved = ref(false)
const daysOff = ref<InstanceType<typeof DaysOff> | null>(null)
const dirty = ref(false)
function touched(): void {
  saved.value = false
  dirty.value = true
}
useUnsaved(() => dirty.value, 'What you changed in your settings would be lost.')
watch(
  () => mine.me.value,
  me => {
    // Edits in progress are not replaced by a refetch.
    if (!me || dirty.value) return
    const { hours } = me.settings
    Object.assign(given, {
      from: endWords(hours.from),
      to: endWords(hours.to),
      hours: hours.minutes.map(m => String(m / 60)),
      off: [...hours.off],
      zone: me.zone,
      settings: structuredClone({ ...me.settings }),
    })
  },
  { immediate: true },
)
const cloth = useQuery({
  key: ['capture-sources'],
  query: () =>
    answer(() =>
      api.cloth.$get({ query: { from: new Date(session.now()).toISOString().slice(0, 10), days: '1' } }),
    ),
})
const calendars = computed(() =>
  (cloth.data.value?.sources ?? [])
    .filter(s => s.itemKind === 'event')
    .map(s => ({ value: s.id, label: `${s.service} · ${s.name}`, writable: s.writable === 1 && !s.own })),
)
const zones = computed(() => zoneChoices(mine.me.value?.zone ?? '', session.now()))

const trouble = computed(() => {
  const [from, to] = [minuteOf(given.from), minuteOf(given.to)]
  if (from === null || to === null) return 'Write hours as 8:00, 17:30 or 5:30 pm.'
  if (from >= to) return 'The day ends before it begins.'
  if (given.hours.some(h => !(Number(h.replace(',', '.')) >= 0 && Number(h.replace(',', '.')) <= 24)))
    return 'Hours of work are numbers from 0 to 24.'
  return ''
})
async function save(): Promise<void> {
  if (trouble.value || daysOff.value?.addTyped() === false) return
  await nextTick()
  const settings: PersonSettings = {
    ...given.settings,
    hours: {
      from: minuteOf(given.from) ?? 480,
      to: minuteOf(given.to) ?? 1080,
      minutes: given.hours.map(h => Math.round(Number(h.replace(',', '.')) * 60)),
      off: given.off,
    },
  }
  saved.value = await attempt(() => mine.change(settings, given.zone))
  if (!saved.value) return
  dirty.value = false
  await session.restore()
}
/** The library's lists say nothing to the form they are in. */
function choose<K extends 'holidays' | 'weekStart' | 'clock' | 'blocksInto'>(
  key: K,
  value: PersonSettings[K],
) {
  given.settings[key] = value
  touched()
}
function chooseZone(zone: string | null): void {
  if (zone === null) return
  given.zone = zone
  touched()
}
function keepSeen({ busy, named }: Kept): void {
  Object.assign(given.settings, { blocksBusy: busy, blocksNamed: named })
  touched()
}
const STARTS = [
  { value: 1 as const, label: 'Monday' },
  { value: 7 as const, label: 'Sunday' },
  { value: 6 as const, label: 'Saturday' },
]
</script>

<template>
  <main class="page">
    <div class="page-head"><h1>My settings</h1></div>
    <form class="sheet form" @submit.prevent="save" @input="touched" @change="touched">
      <section>
        <h2>Working hours</h2>
        <p class="line">
          From <Input v-model:value="given.from" class="short hour" aria-label="Work begins" /> to
          <Input v-model:value="given.to" class="short hour" aria-label="Work ends" /> in the time zone
          <ChooseOne
            :model-value="given.zone"
            class="zone"
            name="Time zone"
            searchable
            :options="zones"
            @update:model-value="chooseZone"
          />
        </p>
        <p class="quiet">How many hours of work a day holds, breaks taken off:</p>
        <div class="days">
          <label v-for="(d, i) in DAYS" :key="d"
            >{{ d }}<Input v-model:value="given.hours[i]" class="short" :aria-label="`Hours on ${d}`"
          /></label>
        </div>
        <DaysOff ref="daysOff" v-model="given.off" @update:model-value="touched" />
        <p class="line">
          Holidays are the all-day events of
          <ChooseOne
            :model-value="given.settings.holidays"
            name="Calendar of holidays"
            :options="calendars"
            none="no calendar"
            @update:model-value="v => choose('holidays', v)"
          />
        </p>
      </section>
      <section>
        <h2>Weeks, blocks, mail</h2>
        <p class="line">
          A week begins on
          <ChooseOne
            :model-value="given.settings.weekStart"
            name="First day of the week"
            :options="STARTS"
            @update:model-value="v => v && choose('weekStart', v)"
          />
        </p>
        <p class="line">
          Clock
          <ChooseOne
            :model-value="given.settings.clock"
            name="How hours are told"
            :options="CLOCKS"
            @update:model-value="v => v && choose('clock', v)"
          />
        </p>
        <p class="line">
          Time I reserve for tasks is kept in
          <ChooseOne
            :model-value="given.settings.blocksInto"
            name="Blocks are kept in"
            :options="calendars.filter(c => c.writable)"
            none="Amber Loom only, so that no calendar is filled with it"
            @update:model-value="v => choose('blocksInto', v)"
          />
          <SeenByOthers
            v-if="given.settings.blocksInto"
            :model-value="usualKept(given.settings)"
            @update:model-value="keepSeen"
          />
        </p>
        <p>
          <Checkbox v-model:checked="given.settings.dailySummary" @change="touched"
            >A mail each morning with what sync changed the day before</Checkbox
          >
          <span v-if="given.settings.dailySummary && mine.me.value?.summaryTrouble" class="wrong"
            >The last one was not sent: {{ mine.me.value.summaryTrouble }} It is tried again.</span
          >
        </p>
      </section>
      <p class="foot">
        <Button type="primary" html-type="submit" :loading="busy" :disabled="trouble !== ''">Save</Button>
        <span v-if="trouble || reason" class="wrong" role="alert">{{ trouble || reason }}</span>
        <span v-else-if="saved" class="quiet" role="status">Saved.</span>
      </p>
    </form>
    <MyAccount />
  </main>
</template>

<style scoped>
.form {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(min(460px, 100%), 1fr));
  gap: 4px 44px;
  padding: 18px 20px;
}
section {
  min-width: 0;
  margin-bottom: 20px;
}
h2 {
  margin-bottom: 10px;
}
.line {
  display: flex;
  align-items: center;
  gap: 8px;
  flex-wrap: wrap;
}
.line :deep(.ant-input) {
  width: auto;
  flex: 1;
  max-width: 320px;
}
.short,
.line :deep(.short) {
  width: 72px;
  flex: none;
}
/* The longest name there is has room. */
.line .zone {
  width: 320px;
}
.line :deep(.hour) {
  width: 98px;
}
.days {
  display: grid;
  grid-template-columns: repeat(7, minmax(0, 1fr));
  max-width: 700px;
  gap: 8px;
  margin: 8px 0 14px;
}
.days label {
  display: grid;
  gap: 3px;
  font-size: 12.5px;
  color: var(--husk);
}
@media (max-width: 640px) {
  .days {
    grid-template-columns: repeat(3, minmax(0, 1fr));
  }
}
.foot {
  grid-column: 1 / -1;
  display: flex;
  align-items: center;
  gap: 12px;
  margin: 0;
}
.wrong {
  color: var(--clay);
}
</style>
