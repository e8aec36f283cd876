<script setup lang="ts">
import { durationWords } from '@loom/core/view'
import { max, scaleSqrt } from 'd3'
import { useElementSize } from '@vueuse/core'
import { computed, useTemplateRef } from 'vue'
import ChartFrame from './ChartFrame.vue'
import type { Report } from './report.ts'

/** Done tasks that had an estimate: what it was, and what they took. */
const props = defineProps<{ tasks: Report['tasks']; dyes: Readonly<Record<string, string>> }>()
const emit = defineEmits<{ open: [task: Report['tasks'][number]] }>()

const chart = useTemplateRef<HTMLElement>('chart')
const { width } = useElementSize(chart)
const W = computed(() => Math.max(240, Math.round(width.value) || 460))
const H = 252
const [LEFT, RIGHT, TOP, BOTTOM] = [52, 16, 20, 34]
const STEPS = [15, 60, 120, 240, 480, 960, 1920, 4800, 12_000]

const estimated = computed(() => props.tasks.filter(t => (t.estimate ?? 0) > 0))
const drawn = computed(() => {
  const most = Math.max(60, max(estimated.value, t => Math.max(t.taken, t.estimate ?? 0)) ?? 0) * 1.08
  // Most are short: the root gives them room, and keeps the line of equals straight.
  const x = scaleSqrt()
    .domain([0, most])
    .range([LEFT, W.value - RIGHT])
  const y = scaleSqrt()
    .domain([0, most])
    .range([H - BOTTOM, TOP])
  const steps = STEPS.filter(s => s < most).slice(-4)
  return {
    steps: steps.map(n => ({ n, x: x(n), y: y(n), words: durationWords(n) })),
    line: { x1: x(0), y1: y(0), x2: x(most), y2: y(most) },
    points: estimated.value.map(task => ({ task, x: x(task.estimate ?? 0), y: y(task.taken) })),
  }
})
const said = (t: Report['tasks'][number]): string =>
  `${t.title}: ${durationWords(t.taken)} instead of ${durationWords(t.estimate ?? 0)}`
const longer = computed(() => estimated.value.filter(t => t.taken > (t.estimate ?? 0)).length)
</script>

<template>
  <ChartFrame
    title="Estimated and taken"
    what="each point is a task that is done"
    :empty="
      estimated.length === 0
        ? 'No task with an estimate was finished in these weeks. What is marked as worked, clocked or written down shows here once its task is done.'
        : undefined
    "
  >
    <template #chart>
      <div ref="chart">
        <svg
          :viewBox="`0 0 ${W} ${H}`"
          role="img"
          :aria-label="`${longer} of ${estimated.length} tasks took longer than estimated. The table has each of them.`"
        >
          <g v-for="s in drawn.steps" :key="s.n">
            <line class="grid" :x1="LEFT" :x2="W - RIGHT" :y1="s.y" :y2="s.y" />
            <text :x="LEFT - 6" :y="s.y + 4" text-anchor="end">{{ s.words }}</text>
            <text :x="s.x" :y="H - 16" text-anchor="middle">{{ s.words }}</text>
          </g>
          <text :x="W - RIGHT" :y="H - 2" text-anchor="end">estimated</text>
          <text :x="2" :y="9">taken</text>
          <line class="equal" v-bind="drawn.line" />
          <circle
            v-for="(p, at) in drawn.points"
            :key="at"
            :cx="p.x"
            :cy="p.y"
            r="5"
            :style="{ '--dye': dyes[p.task.category] }"
            @click="emit('open', p.task)"
          >
            <title>{{ said(p.task) }}</title>
          </circle>
        </svg>
      </div>
    </template>
    <template #table>
      <table>
        <thead>
          <tr>
            <th scope="col">Task</th>
            <th scope="col">Category</th>
            <th scope="col">Estimated</th>
            <th scope="col">Taken</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="t in estimated" :key="t.uid">
            <th scope="row">
              <button type="button" class="plain link" @click="emit('open', t)">{{ t.title }}</button>
            </th>
            <td>{{ t.category }}</td>
            <td>{{ durationWords(t.estimate ?? 0) }}</td>
            <td>{{ durationWords(t.taken) }}</td>
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
.equal {
  stroke: var(--peat);
  stroke-dasharray: 4 3;
}
circle {
  fill: color-mix(in srgb, var(--dye) var(--chart-dye), var(--peat));
  cursor: pointer;
  stroke: var(--cloth);
  stroke-width: 1;
}
circle:hover {
  stroke: var(--peat);
  stroke-width: 2;
}
.link {
  color: var(--amber);
  text-decoration: underline;
}
</style>
