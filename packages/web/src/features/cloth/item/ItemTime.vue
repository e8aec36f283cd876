<script setup lang="ts">
import { type ClothItem, dayAt, dayWords, durationWords } from '@loom/core/view'
import { useQuery } from '@pinia/colada'
import { Button, InputNumber } from 'ant-design-vue'
import { computed, ref } from 'vue'
import { answer, api } from '../../../api/client.ts'
import { type Entry, useClock, useEntries } from '../../../stores/time.ts'
import { useSession } from '../../../stores/session.ts'
import ChooseDay from '../../../ui/ChooseDay.vue'
import { useAttempt } from '../../../ui/attempt.ts'
import { clockWords } from '../../../ui/telling.ts'

/** One's own time that went into an item: a clock, what is written down, and writing down what was not. */
const props = defineProps<{ item: ClothItem; zone: string }>()
/** Time of a block goes into its task. */
const key = computed(() => props.item.of ?? props.item.key.split('@')[0] ?? props.item.key)
const session = useSession()
const { clock, start, stop } = useClock()
const runs = computed(() => clock.value?.key === key.value)
const query = useQuery({
  key: () => ['time', 'item', key.value],
  query: () => answer(() => api.time.entries.$get({ query: { item: key.value } })),
})
const entries = computed(() => query.data.value?.entries ?? [])
const total = computed(() => entries.value.reduce((x, e) => x + e.counted, 0))
const { add, remove, confirm } = useEntries()
const { attempt, busy, reason } = useAttempt()

const isAdding = ref(false)
const minutes = ref<number | null>(null)
const day = ref('')
function begin(): void {
  isAdding.value = true
  minutes.value = props.item.estimate ?? 30
  day.value = dayAt(session.now(), props.zone)
}
async function write(): Promise<void> {
  const taken = minutes.value
  if (taken === null || day.value === '') return
  const entry = { item: key.value, title: '', category: '', day: day.value, time: { minutes: taken } }
  if (await attempt(() => add(entry))) isAdding.value = false
}
const SHOWN = 5
const isWhole = ref(false)
const shown = computed(() => (isWhole.value ? entries.value : entries.value.slice(0, SHOWN)))
const whenOf = ({ time, day: on }: Entry): string =>
  'fromMs' in time ? `${dayWords(on)}, ${clockWords(time.fromMs, props.zone)}` : dayWords(on)
</script>

<template>
  <section class="time" aria-label="Time taken">
    <header>
      <h3>Time taken</h3>
      <span v-if="total > 0" class="quiet"
        >{{ durationWords(total) }} of mine{{
          item.estimate ? `, estimated ${durationWords(item.estimate)}` : ''
        }}</span
      >
      <span class="spacer" />
      <Button v-if="runs" size="small" @click="stop">Stop the clock</Button>
      <Button v-else size="small" @click="start({ ...item, key })">Start the clock</Button>
      <Button v-if="!isAdding" size="small" @click="begin">Add time</Button>
    </header>
    <form v-if="isAdding" class="add" @submit.prevent="write" @keydown.esc.stop="isAdding = false">
      <InputNumber
        :value="minutes ?? ''"
        size="small"
        autofocus
        :min="1"
        :max="1440"
        :step="5"
        aria-label="Minutes taken"
        @change="v => (minutes = typeof v === 'number' ? v : null)"
      />
      min on
      <ChooseDay v-model="day" small aria-label="On which day" />
      <Button size="small" type="primary" html-type="submit" :loading="busy">Add</Button>
      <Button size="small" @click="isAdding = false">Cancel</Button>
    </form>
    <p v-if="reason" class="wrong" role="alert">{{ reason }}</p>
    <ul v-if="entries.length > 0">
      <li v-for="e in shown" :key="e.id">
        <span>{{ whenOf(e) }}</span>
        <b>{{ durationWords(e.counted) }}</b>
        <span class="quiet">{{ e.assumed ? 'assumed' : e.source === 'clock' ? 'clock' : '' }}</span>
        <span class="acts">
          <button v-if="e.assumed" type="button" class="plain link" @click="attempt(() => confirm([e.id]))">
            Confirm
          </button>
          <button type="button" class="plain link" @click="attempt(() => remove(e))">Remove</button>
        </span>
      </li>
      <li v-if="entries.length > SHOWN && !isWhole">
        <button type="button" class="plain link" @click="isWhole = true">
          {{ entries.length - SHOWN }} earlier
        </button>
      </li>
    </ul>
  </section>
</template>

<style scoped>
.time {
  margin: 14px 0;
}
header,
.add {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 6px 8px;
}
.add {
  margin-top: 6px;
}
.spacer {
  flex: 1;
}
ul {
  list-style: none;
  margin: 6px 0 0;
  padding: 0;
}
li {
  display: grid;
  grid-template-columns: 130px 80px 1fr auto;
  gap: 8px;
  padding: 2px 0;
}
.acts {
  display: flex;
  gap: 10px;
}
.link {
  color: var(--amber);
  text-decoration: underline;
}
.wrong {
  color: var(--clay);
}
</style>
