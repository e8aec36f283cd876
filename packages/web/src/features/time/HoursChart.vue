<script setup lang="ts">
import { addDays, dateNames, durationWords, isoWeekOf, shortName } from '@loom/core/view'
import type { Grouping, Period, PeriodSum } from '@loom/core/ledger'
import { max, scaleBand, scaleLinear } from 'd3'
import { useElementSize } from '@vueuse/core'
import { computed, useTemplateRef } from 'vue'
import ChartFrame from './ChartFrame.vue'
import type { Opened } from './report.ts'

/** Hours by period, one upon the other by what they went into, with what the working hours hold. */
const props = defineProps<{
  title: string
  periods: readonly PeriodSum[]
  /** From the bottom up. */
  names: readonly string[]
  dyes: Readonly<Record<string, string>>
  period: Period
  by: Grouping
  /** Parts can be opened: they are of one's own time. */
  opens: boolean
  empty?: string
  /** Chart and table are shown together. */
  both?: boolean
}>()
const emit = defineEmits<{ open: [of: Opened] }>()

const chart = useTemplateRef<HTMLElement>('chart')
const { width } = useElementSize(chart)
/** As wide as there is room, so that words stay as large as they are elsewhere. */
const W = computed(() => Math.max(260, Math.round(width.value) || 720))
const H = 252
const [LEFT, RIGHT, TOP, BOTTOM] = [34, 8, 10, 24]
const HOUR = 60
const LABEL_PX = 26

const shortDateWords = (date: string): string => `${dateNames(date).day} ${shortName(dateNames(date).month)}`
const nameOf = ({ from }: PeriodSum): string =>
  props.period === 'week'
    ? `Week ${isoWeekOf(from)}`
    : props.period === 'month'
      ? shortName(dateNames(from).month)
      : shortDateWords(from)
const shortNameOf = (p: PeriodSum): string =>
  props.period === 'week'
    ? `${W.value / props.periods.length > 66 ? 'week ' : ''}${isoWeekOf(p.from)}`
    : props.period === 'day'
      ? p.from.slice(8)
      : nameOf(p)
const daysWords = ({ from, to }: PeriodSum): string => {
  const last = addDays(to, -1)
  return last === from ? shortDateWords(from) : `${shortDateWords(from)} to ${shortDateWords(last)}`
}
const minutesOf = (p: PeriodSum, name: string): number => p.by[name] ?? 0

const drawn = computed(() => {
  const { periods, names } = props
  const x = scaleBand<string>()
    .domain(periods.map(p => p.from))
    .range([LEFT, W.value - RIGHT])
    .padding(0.28)
  const most = Math.max(HOUR, max(periods, p => Math.max(p.minutes, p.capacity ?? 0)) ?? 0) / HOUR
  const y = scaleLinear()
    .domain([0, most])
    .nice(4)
    .range([H - BOTTOM, TOP])
  const every = Math.max(1, Math.ceil((periods.length * LABEL_PX) / W.value))
  return {
    ticks: y.ticks(4).map(n => ({ n, y: y(n) })),
    bars: periods.map((p, at) => {
      let below = 0
      const parts = names.flatMap(name => {
        const minutes = minutesOf(p, name)
        if (minutes === 0) return []
        const from = y(below / HOUR)
        below += minutes
        return [{ name, minutes, y: y(below / HOUR), height: Math.max(0.5, from - y(below / HOUR) - 1) }]
      })
      return {
        period: p,
        x: x(p.from) ?? 0,
        width: x.bandwidth(),
        parts,
        label: at % every === 0 ? shortNameOf(p) : '',
        capacity: p.capacity === null || p.capacity === 0 ? null : y(p.capacity / HOUR),
      }
    }),
  }
})
const open = (p: PeriodSum, name: string): void => {
  if (props.opens)
    emit('open', { title: `${name}, ${daysWords(p)}`, from: p.from, to: p.to, by: props.by, name })
}
const words = computed(() => {
  const total = props.periods.reduce((x, p) => x + p.minutes, 0)
  return `${durationWords(total)} in all. The table has each figure.`
})
</script>

<template>
  <ChartFrame
    :title="title"
    :what="periods.some(p => p.capacity !== null) ? 'hours; dashed: what working hours hold' : 'hours'"
    :empty="empty"
    :both="both"
  >
    <template #chart>
      <div ref="chart">
        <svg :viewBox="`0 0 ${W} ${H}`" role="img" :aria-label="words">
          <g v-for="t in drawn.ticks" :key="t.n">
            <line class="grid" :x1="LEFT" :x2="W - RIGHT" :y1="t.y" :y2="t.y" />
            <text :x="LEFT - 6" :y="t.y + 4" text-anchor="end">{{ t.n }}</text>
          </g>
          <g v-for="b in drawn.bars" :key="b.period.from">
            <rect
              v-for="part in b.parts"
              :key="part.name"
              class="part"
              :class="{ opens }"
              :x="b.x"
              :y="part.y"
              :width="b.width"
              :height="part.height"
              :style="{ '--dye': dyes[part.name] }"
              @click="open(b.period, part.name)"
            >
              <title>{{ part.name }}: {{ durationWords(part.minutes) }}, {{ daysWords(b.period) }}</title>
            </rect>
            <line
              v-if="b.capacity !== null"
              class="holds"
              :x1="b.x - 5"
              :x2="b.x + b.width + 5"
              :y1="b.capacity"
              :y2="b.capacity"
            />
            <text :x="b.x + b.width / 2" :y="H - 7" text-anchor="middle">{{ b.label }}</text>
          </g>
        </svg>
      </div>
      <ul class="legend">
        <li v-for="name in names" :key="name">
          <span class="key" :style="{ '--dye': dyes[name] }" />{{ name }}
        </li>
      </ul>
    </template>
    <template #table>
      <table>
        <thead>
          <tr>
            <th scope="col">{{ period === 'day' ? 'Day' : period === 'week' ? 'Week' : 'Month' }}</th>
            <th v-for="name in names" :key="name" scope="col">{{ name }}</th>
            <th scope="col">All</th>
            <th v-if="periods.some(p => p.capacity !== null)" scope="col">Working hours</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="p in periods" :key="p.from">
            <th scope="row">
              {{ nameOf(p) }} <span class="quiet">{{ daysWords(p) }}</span>
            </th>
            <td v-for="name in names" :key="name">
              <button
                v-if="opens && minutesOf(p, name) > 0"
                type="button"
                class="plain link"
                @click="open(p, name)"
              >
                {{ durationWords(minutesOf(p, name)) }}
              </button>
              <template v-else>{{
                minutesOf(p, name) > 0 ? durationWords(minutesOf(p, name)) : '–'
              }}</template>
            </td>
            <td>{{ p.minutes > 0 ? durationWords(p.minutes) : '–' }}</td>
            <td v-if="periods.some(q => q.capacity !== null)">
              {{ p.capacity ? durationWords(p.capacity) : 'none' }}
            </td>
          </tr>
        </tbody>
      </table>
    </template>
  </ChartFrame>
</template>

<style scoped>
svg {
  display: block;
  width: 100%;
}
text {
  fill: var(--husk);
  font-size: 12px;
}
.grid {
  stroke: var(--warp);
}
.holds {
  stroke: var(--peat);
  stroke-width: 2;
  stroke-dasharray: 4 3;
}
.part {
  fill: color-mix(in srgb, var(--dye) var(--chart-dye), var(--peat));
}
.part.opens {
  cursor: pointer;
}
.part.opens:hover {
  stroke: var(--peat);
  stroke-width: 1.5;
}
.legend {
  list-style: none;
  display: flex;
  flex-wrap: wrap;
  gap: 2px 16px;
  margin: 4px 0 0;
  padding: 0 0 0 34px;
  font-size: 13px;
}
.key {
  display: inline-block;
  width: 10px;
  height: 10px;
  margin-right: 6px;
  background: color-mix(in srgb, var(--dye) var(--chart-dye), var(--peat));
}
.link {
  color: var(--amber);
  text-decoration: underline;
}
</style>
