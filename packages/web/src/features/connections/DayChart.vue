<script setup lang="ts">
import { clockWords } from '../../ui/telling.ts'
import { useQuery } from '@pinia/colada'
import { area, max, scaleBand, scaleLinear, scaleTime } from 'd3'
import { computed } from 'vue'
import { answer, api } from '../../api/client.ts'
import { useSession } from '../../stores/session.ts'

/** The last day of one connection: items seen and written, passes, the longest wait, and errors. */
const props = defineProps<{ id: string }>()
const session = useSession()

const query = useQuery({
  key: () => ['connections', 'day', props.id],
  query: () => answer(() => api.connections[':id'].day.$get({ param: { id: props.id } })),
})

const count = (n: number, one: string, many: string): string => `${n} ${n === 1 ? one : many}`

const W = 1180
const H = 132
const LEFT = 44
const TOP = 12
const MIDDLE = 78
const BOTTOM = 112

const drawn = computed(() => {
  const data = query.data.value
  if (!data) return null
  const { now, slotMs } = data
  const from = Math.floor((now - 86_400_000) / slotMs) * slotMs
  const slots = data.slots.map(s => ({ ...s, at: s.slot }))
  const x = scaleTime()
    .domain([from, now])
    .range([LEFT, W - 8])
  const band = scaleBand<number>()
    .domain(Array.from({ length: Math.ceil(86_400_000 / slotMs) + 1 }, (_, i) => from + i * slotMs))
    .range([LEFT, W - 8])
    .paddingInner(0.25)
  const most = Math.max(4, max(slots, s => s.items + s.writes) ?? 0)
  const y = scaleLinear().domain([0, most]).nice(3).range([MIDDLE, TOP])
  const slowest = Math.max(1000, max(slots, s => Math.max(s.slowestMs, s.delayMs)) ?? 0)
  const wait = scaleLinear()
    .domain([0, slowest])
    .range([BOTTOM, MIDDLE + 10])
  const waits = area<(typeof slots)[number]>()
    .defined(s => s.passes > 0)
    .x(s => x(s.at + slotMs / 2))
    .y0(BOTTOM)
    .y1(s => wait(Math.max(s.slowestMs, s.delayMs)))
  const zone = session.person?.zone ?? 'UTC'
  const sum = (of: (s: (typeof slots)[number]) => number): number => slots.reduce((n, s) => n + of(s), 0)
  return {
    bars: slots.flatMap(s => {
      const left = band(s.at) ?? x(s.at)
      const width = Math.max(2, band.bandwidth())
      return [
        { key: `${s.at}i`, kind: 'items', x: left, y: y(s.items), width, height: MIDDLE - y(s.items) },
        {
          key: `${s.at}w`,
          kind: 'writes',
          x: left,
          y: y(s.items + s.writes),
          width,
          height: y(s.items) - y(s.items + s.writes),
        },
      ].filter(b => b.height > 0)
    }),
    errors: slots
      .filter(s => s.errors > 0)
      .map(s => ({ at: s.at, x: x(s.at + slotMs / 2), errors: s.errors })),
    waits: waits(slots) ?? '',
    hours: x.ticks(12).map(t => ({ x: x(t), words: clockWords(Number(t), zone) })),
    counts: [0, y.domain()[1] ?? 0].map(n => ({ y: y(n), n })),
    slowest: slowest < 1000 ? `${slowest} ms` : `${Math.round(slowest / 100) / 10} s`,
    passes: slots.map(s => ({
      at: s.at,
      x: band(s.at) ?? x(s.at),
      width: Math.max(2, band.bandwidth()),
      share: 0.25 + (0.75 * s.passes) / Math.max(1, max(slots, t => t.passes) ?? 1),
    })),
    words: `In the last 24 hours: ${count(
      sum(s => s.passes),
      'pass',
      'passes',
    )}, ${count(
      sum(s => s.items),
      'item',
      'items',
    )} seen new or changed, ${sum(s => s.writes)} written, ${count(
      sum(s => s.errors),
      'pass',
      'passes',
    )} with an error; the longest wait ${Math.round(slowest / 100) / 10} s.`,
    empty: slots.length === 0,
  }
})
</script>

<template>
  <figure v-if="drawn" class="chart">
    <figcaption>{{ drawn.empty ? 'Nothing has happened in the last day.' : drawn.words }}</figcaption>
    <svg v-if="!drawn.empty" :viewBox="`0 0 ${W} ${H}`" aria-hidden="true">
      <g class="lines">
        <line v-for="c in drawn.counts" :key="c.n" :x1="LEFT" :x2="W - 8" :y1="c.y" :y2="c.y" />
        <line :x1="LEFT" :x2="W - 8" :y1="BOTTOM" :y2="BOTTOM" />
      </g>
      <g class="words">
        <text v-for="c in drawn.counts" :key="c.n" :x="LEFT - 6" :y="c.y + 4" text-anchor="end">
          {{ c.n }}
        </text>
        <text :x="LEFT - 6" :y="BOTTOM - 4" text-anchor="end">{{ drawn.slowest }}</text>
        <text v-for="h in drawn.hours" :key="h.words + h.x" :x="h.x" :y="H - 4" text-anchor="middle">
          {{ h.words }}
        </text>
      </g>
      <path class="waits" :d="drawn.waits" />
      <rect
        v-for="p in drawn.passes"
        :key="`${p.at}p`"
        class="passes"
        :x="p.x"
        :y="BOTTOM + 1"
        :width="p.width"
        height="3"
        :opacity="p.share"
      />
      <rect
        v-for="b in drawn.bars"
        :key="b.key"
        :class="b.kind"
        :x="b.x"
        :y="b.y"
        :width="b.width"
        :height="b.height"
      />
      <path
        v-for="e in drawn.errors"
        :key="e.at"
        class="error"
        :d="`M${e.x},${MIDDLE - 5} l5,5 l-5,5 l-5,-5 z`"
      />
    </svg>
    <ul v-if="!drawn.empty" class="legend quiet" aria-hidden="true">
      <li><span class="key items" /> seen new or changed</li>
      <li><span class="key writes" /> written</li>
      <li><span class="key waits" /> longest wait</li>
      <li><span class="key passes" /> passes, the more the darker</li>
      <li><span class="key error" /> error</li>
    </ul>
  </figure>
</template>

<style scoped>
.chart {
  margin: 0;
}
figcaption {
  margin-bottom: 4px;
}
svg {
  display: block;
  width: 100%;
}
.lines line {
  stroke: var(--warp);
}
.words text {
  fill: var(--husk);
  font-size: 11px;
}
.items {
  fill: var(--moss);
  background: var(--moss);
}
.writes {
  fill: var(--amber);
  background: var(--amber);
}
.waits {
  fill: var(--warp-strong);
  background: var(--warp-strong);
}
.passes {
  fill: var(--peat);
  background: var(--peat);
}
.error {
  fill: var(--clay);
  background: var(--clay);
}
.legend {
  list-style: none;
  display: flex;
  flex-wrap: wrap;
  gap: 2px 18px;
  margin: 4px 0 0;
  padding: 0;
  font-size: 13px;
}
.key {
  display: inline-block;
  width: 9px;
  height: 9px;
}
.key.error {
  transform: rotate(45deg);
}
</style>
