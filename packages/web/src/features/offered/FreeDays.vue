<script setup lang="ts">
import { addDays, dayAt, epochOf, MINUTE, onDate } from '@loom/core/view'
import { computed, ref, watch } from 'vue'
import { dayWord, hourWord } from './local-words.ts'
import { type Run, runsOf } from './runs.ts'

/**
 * Free times as spans over the hours of some days, among which one chooses a beginning: by a click where it is to be, or
 * by arrow keys. On a telephone they stand below each other.
 */
const props = defineProps<{ starts: readonly number[]; minutes: number; zone: string }>()
const chosen = defineModel<number | null>({ required: true })

const DAYS = 5
const first = computed(() => (props.starts[0] === undefined ? null : dayAt(props.starts[0], props.zone)))
const from = ref(first.value)
watch([first, () => props.zone], ([date], [was]) => {
  if (from.value === null || from.value === was || (date !== null && from.value < date)) from.value = date
})
const last = computed(() => dayAt(props.starts.at(-1) ?? 0, props.zone))
const runs = computed(() => runsOf(props.starts, props.minutes, props.zone))
const days = computed(() =>
  from.value === null
    ? []
    : Array.from({ length: DAYS }, (_, n) => addDays(from.value ?? '', n))
        .filter(date => date <= last.value)
        .map(date => ({
          date,
          at: epochOf(onDate(date), props.zone) + 12 * 60 * MINUTE,
          midnight: epochOf(onDate(date), props.zone),
          runs: runs.value.get(date) ?? [],
        })),
)
/** The hours that are drawn, minutes after midnight: those of all days, so that nothing jumps from page to page. */
const axis = computed(() => {
  let [least, most] = [24 * 60, 0]
  for (const [date, all] of runs.value) {
    const midnight = epochOf(onDate(date), props.zone)
    for (const r of all) {
      least = Math.min(least, (r.fromMs - midnight) / MINUTE)
      most = Math.max(most, (r.toMs - midnight) / MINUTE)
    }
  }
  return { from: Math.floor(least / 60) * 60, to: Math.max(Math.ceil(most / 60) * 60, least + 240) }
})
const marks = computed(() => {
  const step = axis.value.to - axis.value.from > 720 ? 120 : 60
  const all: number[] = []
  for (let m = axis.value.from; m < axis.value.to; m += step) all.push(m)
  return all
})
const share = (minutes: number): string =>
  `${(100 * (minutes - axis.value.from)) / (axis.value.to - axis.value.from)}%`
const placed = (fromMs: number, toMs: number, midnight: number) => ({
  left: share((fromMs - midnight) / MINUTE),
  width: `${(100 * (toMs - fromMs)) / MINUTE / (axis.value.to - axis.value.from)}%`,
})
const hourAt = (minute: number): string =>
  hourWord((days.value[0]?.midnight ?? 0) + minute * MINUTE, props.zone)
const spanWords = ({ fromMs, toMs }: Run): string =>
  `${hourWord(fromMs, props.zone)} – ${hourWord(toMs, props.zone)}`
/** In a short one there is room for its beginning alone. */
const NARROW = 0.19
const shortWords = (r: Run): string =>
  (r.toMs - r.fromMs) / MINUTE / (axis.value.to - axis.value.from) < NARROW
    ? hourWord(r.fromMs, props.zone)
    : spanWords(r)
const holds = (run: Run): boolean => chosen.value !== null && run.starts.includes(chosen.value)

function choose(run: Run, event: MouseEvent): void {
  const box = (event.currentTarget as HTMLElement).getBoundingClientRect()
  // By the keyboard, and on a telephone, where a span has no hours: its first, and the others are below.
  const isAt = event.detail > 0 && box.width > 0 && !isStacked()
  const at = isAt
    ? run.fromMs + ((event.clientX - box.left) / box.width) * (run.toMs - run.fromMs)
    : run.fromMs
  const middle = at - (props.minutes * MINUTE) / 2
  chosen.value = isAt
    ? run.starts.reduce((best, s) => (Math.abs(s - middle) < Math.abs(best - middle) ? s : best))
    : (run.starts[0] ?? null)
}
const isStacked = (): boolean => window.matchMedia('(max-width: 640px)').matches
function step(run: Run, by: 1 | -1): void {
  const n = chosen.value === null ? -1 : run.starts.indexOf(chosen.value)
  chosen.value = run.starts[n < 0 ? 0 : Math.min(run.starts.length - 1, Math.max(0, n + by))] ?? null
}
const go = (by: number): void => void (from.value = addDays(from.value ?? '', by * DAYS))
</script>

<template>
  <div class="days">
    <div class="axis" aria-hidden="true">
      <span />
      <span class="hours"
        ><i v-for="m in marks" :key="m" :style="{ left: share(m) }">{{ hourAt(m) }}</i></span
      >
    </div>
    <div v-for="d in days" :key="d.date" class="day" role="group" :aria-label="dayWord(d.at, zone)">
      <strong>{{ dayWord(d.at, zone) }}</strong>
      <span class="track">
        <span v-if="d.runs.length === 0" class="quiet none">nothing free</span>
        <button
          v-for="r in d.runs"
          :key="r.fromMs"
          type="button"
          class="run"
          :class="{ on: holds(r) }"
          :aria-pressed="holds(r)"
          :style="placed(r.fromMs, r.toMs, d.midnight)"
          @click="e => choose(r, e)"
          @keydown.right.prevent="step(r, 1)"
          @keydown.left.prevent="step(r, -1)"
          :aria-label="spanWords(r)"
        >
          <span class="wide">{{ shortWords(r) }}</span><span class="tall">{{ spanWords(r) }}</span>
        </button>
        <span
          v-for="r in d.runs.filter(holds)"
          :key="`chosen ${r.fromMs}`"
          class="chosen"
          aria-hidden="true"
          :style="placed(chosen ?? 0, (chosen ?? 0) + minutes * MINUTE, d.midnight)"
          >{{ hourWord(chosen ?? 0, zone) }}</span
        >
      </span>
      <span v-if="d.runs.some(holds)" class="starts" role="group" aria-label="Beginning">
        <button
          v-for="s in d.runs.find(holds)?.starts ?? []"
          :key="s"
          type="button"
          class="start"
          :aria-pressed="s === chosen"
          @click="chosen = s"
        >
          {{ hourWord(s, zone) }}
        </button>
      </span>
    </div>
    <nav v-if="first !== null && addDays(first, DAYS) <= last" aria-label="Days">
      <button
        type="button"
        class="push small"
        :disabled="from === null || from <= (first ?? '')"
        @click="go(-1)"
      >
        ‹ Days before
      </button>
      <button
        type="button"
        class="push small"
        :disabled="addDays(from ?? '9999-01-01', DAYS) > last"
        @click="go(1)"
      >
        Days after ›
      </button>
    </nav>
  </div>
</template>

<style scoped>
.days {
  background: var(--cloth);
  border: 1px solid var(--warp);
  border-radius: 3px;
}
.axis,
.day {
  display: grid;
  grid-template-columns: 108px 1fr;
  padding: 0 14px;
}
.axis {
  height: 25px;
}
.hours,
.track {
  position: relative;
}
.hours i {
  position: absolute;
  top: 5px;
  font-style: normal;
  font-size: 12px;
  color: var(--husk);
  white-space: nowrap;
}
.day {
  align-items: center;
  border-top: 1px solid var(--warp);
}
.track {
  height: 52px;
}
.none {
  position: absolute;
  top: 17px;
  left: 8px;
}
.run,
.chosen {
  position: absolute;
  top: 9px;
  height: 34px;
  box-sizing: border-box;
  border-radius: 3px;
  overflow: hidden;
  white-space: nowrap;
  font: inherit;
  font-size: 13px;
  padding: 0 6px;
}
.run {
  appearance: none;
  border: 1px solid var(--moss);
  background: color-mix(in srgb, var(--moss) 9%, var(--cloth));
  color: var(--peat);
  text-align: left;
  cursor: pointer;
}
.tall {
  display: none;
}
.run:hover {
  background: color-mix(in srgb, var(--moss) 18%, var(--cloth));
}
.run.on {
  color: transparent;
}
.chosen {
  background: var(--amber);
  color: var(--on-amber);
  line-height: 34px;
  font-weight: 600;
  pointer-events: none;
}
.starts {
  grid-column: 1 / -1;
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  padding: 2px 0 12px;
}
.start {
  appearance: none;
  font: inherit;
  font-size: 13px;
  min-height: 32px;
  padding: 0 10px;
  border: 1px solid var(--warp-strong);
  border-radius: 3px;
  background: var(--cloth);
  color: var(--peat);
  cursor: pointer;
}
.start[aria-pressed='true'] {
  background: var(--amber);
  border-color: var(--amber);
  color: var(--on-amber);
  font-weight: 600;
}
nav {
  display: flex;
  justify-content: space-between;
  gap: 8px;
  padding: 10px 14px;
  border-top: 1px solid var(--warp);
}
@media (max-width: 640px) {
  .axis {
    display: none;
  }
  .day {
    grid-template-columns: 1fr;
    padding: 10px 12px;
  }
  .track {
    height: auto;
    display: grid;
    gap: 8px;
    margin-top: 6px;
  }
  .none,
  .run {
    position: static;
  }
  .run {
    width: auto !important;
    height: 44px;
    font-size: 15px;
  }
  .run.on {
    color: inherit;
    border: 2px solid var(--amber);
  }
  .chosen,
  .wide {
    display: none;
  }
  .tall {
    display: inline;
  }
  .starts {
    padding-top: 8px;
  }
  .start {
    min-height: 44px;
    font-size: 15px;
  }
}
</style>
