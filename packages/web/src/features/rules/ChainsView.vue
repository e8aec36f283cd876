<script setup lang="ts">
import { useQuery } from '@pinia/colada'
import { scalePoint } from 'd3'
import { computed } from 'vue'
import { answer, api } from '../../api/client.ts'
import { longestFirst } from './longest-first.ts'
import RulesTabs from './RulesTabs.vue'

/**
 * Shows which lists and calendars feed which. Each is a vertical thread; each rule is a strand between its two
 * sides, with its traffic and speed of the last day.
 */
const load = () => answer(() => api.waiting.chains.$get())
type Chains = Awaited<ReturnType<typeof load>>
type Edge = Chains['edges'][number]
const query = useQuery({ key: ['rules', 'chains'], query: load })
const nodes = computed(() => query.data.value?.nodes ?? [])
const edges = computed(() => longestFirst(query.data.value?.edges ?? []))
const rings = computed(() => query.data.value?.rings ?? [])

const HEAD = 92
const ROW = 74
const LEFT = 40

/** Threads in the order in which the rules reach them, so that strands cross as few as they can. */
const order = computed(() => {
  const placed: string[] = []
  for (const e of edges.value)
    for (const id of [...e.collections.a, ...e.collections.b]) if (!placed.includes(id)) placed.push(id)
  return placed.filter(id => nodes.value.some(n => n.id === id))
})
const width = computed(() => Math.max(560, LEFT + order.value.length * 240))
const height = computed(() => HEAD + edges.value.length * ROW + 18)
const x = computed(() => scalePoint(order.value, [LEFT + 60, width.value - 110]))
const xOf = (id: string): number => x.value(id) ?? 0
const yOf = (i: number): number => HEAD + i * ROW + ROW / 2

const threads = computed(() =>
  nodes.value
    .filter(n => order.value.includes(n.id))
    .map(n => ({ ...n, x: xOf(n.id), short: n.name.length > 22 ? `${n.name.slice(0, 21)}…` : n.name })),
)
const strands = computed(() =>
  edges.value.map((e, i) => {
    const xs = (ids: readonly string[]) => ids.filter(id => order.value.includes(id)).map(xOf)
    const [a, b] = [xs(e.collections.a), xs(e.collections.b)]
    const all = [...a, ...b]
    const [from, to] = [a[0] ?? 0, b[0] ?? 0]
    return {
      edge: e,
      y: yOf(i),
      a,
      b,
      left: Math.min(...all),
      right: Math.max(...all),
      middle: (from + to) / 2,
      /** Which end of the strand is the first side's. */
      rightward: from <= to,
    }
  }),
)
const ringOf = (e: Edge): number => rings.value.findIndex(r => r.includes(e.id))
const brackets = computed(() =>
  rings.value.map((ring, i) => {
    const rows = edges.value.flatMap((e, k) => (ring.includes(e.id) ? [k] : []))
    return { i, y1: yOf(Math.min(...rows)) - 16, y2: yOf(Math.max(...rows)) + 16, x: LEFT - 14 - i * 8 }
  }),
)
const delay = (ms: number | null): string =>
  ms === null
    ? ''
    : ms < 1000
      ? `, ${Math.max(1, Math.round(ms / 10) / 100)} s`
      : `, ${(ms / 1000).toFixed(1)} s`
const way = (w: Edge['forth']): string =>
  !w.carried ? '' : w.writes === 0 ? 'nothing today' : `${w.writes} today${delay(w.delayMs)}`
const nameOf = (id: string | undefined): string => nodes.value.find(n => n.id === id)?.name ?? ''
</script>

<template>
  <main class="page">
    <div class="page-head">
      <h1>Chains</h1>
      <span class="quiet">Each list and calendar is a thread, each rule a strand between two of them.</span>
    </div>
    <RulesTabs />
    <p v-if="query.error.value" role="alert">{{ query.error.value.message }}</p>
    <div v-if="query.data.value && edges.length === 0" class="sheet empty">
      <h2>No rule, no chain</h2>
      <p>As soon as two rules share a list or a calendar, one can see here where a change travels on to.</p>
    </div>
    <div v-else class="sheet drawing" tabindex="0" role="region" aria-label="The chains, drawn">
      <svg
        :width="width"
        :height="height"
        :viewBox="`0 0 ${width} ${height}`"
        role="img"
        aria-labelledby="chains-said"
      >
        <title id="chains-said">
          Threads of lists and calendars with the strands of rules between them; told again in the list below.
        </title>
        <defs>
          <marker
            id="tip"
            viewBox="0 0 8 8"
            refX="7"
            refY="4"
            markerWidth="8"
            markerHeight="8"
            orient="auto-start-reverse"
          >
            <path d="M0 0 L8 4 L0 8 Z" fill="var(--peat)" />
          </marker>
        </defs>
        <g v-for="t in threads" :key="t.id">
          <text :x="t.x" y="24" text-anchor="middle" class="name">{{ t.short }}</text>
          <text :x="t.x" y="42" text-anchor="middle" class="small">{{ t.service }}</text>
          <text :x="t.x" y="59" text-anchor="middle" class="small">{{ t.items }} {{ t.itemKind }}s</text>
          <rect :x="t.x - 4" y="70" width="8" :height="height - 84" rx="2" :fill="t.dye" :opacity="0.8" />
        </g>
        <g v-for="s in strands" :key="s.edge.id" :class="{ paused: s.edge.state === 'paused' }">
          <line :x1="s.left" :x2="s.right" :y1="s.y" :y2="s.y" class="strand" />
          <line
            v-if="s.edge.forth.carried"
            :x1="s.middle"
            :x2="(s.b[0] ?? 0) + (s.rightward ? -6 : 6)"
            :y1="s.y"
            :y2="s.y"
            class="strand"
            marker-end="url(#tip)"
          />
          <line
            v-if="s.edge.back.carried"
            :x1="s.middle"
            :x2="(s.a[0] ?? 0) + (s.rightward ? 6 : -6)"
            :y1="s.y"
            :y2="s.y"
            class="strand"
            marker-end="url(#tip)"
          />
          <rect
            v-for="px in [...s.a, ...s.b]"
            :key="px"
            :x="px - 7"
            :y="s.y - 7"
            width="14"
            height="14"
            class="knot"
          />
          <text :x="s.middle" :y="s.y - 9" text-anchor="middle" class="rule">
            {{ s.edge.state === 'paused' ? 'paused: ' : ''
            }}{{ s.edge.name.length > 30 ? `${s.edge.name.slice(0, 29)}…` : s.edge.name }}
          </text>
          <text :x="s.middle" :y="s.y + 18" text-anchor="middle" class="small">
            {{
              [way(s.edge.forth) && `→ ${way(s.edge.forth)}`, way(s.edge.back) && `← ${way(s.edge.back)}`]
                .filter(Boolean)
                .join(' · ')
            }}
          </text>
        </g>
        <g v-for="r in brackets" :key="r.i">
          <path :d="`M ${r.x + 8} ${r.y1} H ${r.x} V ${r.y2} H ${r.x + 8}`" class="ring" />
          <text
            :x="r.x - 5"
            :y="(r.y1 + r.y2) / 2"
            class="ring-name"
            :transform="`rotate(-90 ${r.x - 5} ${(r.y1 + r.y2) / 2})`"
            text-anchor="middle"
          >
            ring
          </text>
        </g>
      </svg>
    </div>
    <ul v-if="edges.length > 0" class="sheet told" aria-label="Rules, with what went over them today">
      <li v-for="e in edges" :key="e.id">
        <RouterLink :to="`/rules/${e.id}`">{{ e.name }}</RouterLink>
        <span v-if="ringOf(e) >= 0" class="in-ring">in a ring</span>
        <span v-if="e.state === 'paused'" class="quiet">paused</span>
        <span class="quiet"
          ><template v-if="e.forth.carried">to {{ nameOf(e.collections.b[0]) }}: {{ way(e.forth) }}</template
          ><template v-if="e.forth.carried && e.back.carried">; </template
          ><template v-if="e.back.carried"
            >to {{ nameOf(e.collections.a[0]) }}: {{ way(e.back) }}</template
          ></span
        >
        <RouterLink :to="{ name: 'journal', query: { rule: e.id } }" class="journal"
          >journal<span class="visually-hidden"> of {{ e.name }}</span></RouterLink
        >
      </li>
    </ul>
  </main>
</template>

<style scoped>
.empty {
  padding: 28px;
}
.drawing {
  overflow-x: auto;
  padding: 6px 0;
}
.name {
  font:
    700 15px 'Bricolage Grotesque Variable',
    sans-serif;
  fill: var(--peat);
}
.small {
  font-size: 12.5px;
  fill: var(--husk);
}
.rule {
  font-size: 13px;
  font-weight: 700;
  fill: var(--peat);
  paint-order: stroke;
  stroke: var(--cloth);
  stroke-width: 4px;
}
.strand {
  stroke: var(--peat);
  stroke-width: 1.5;
}
.paused .strand {
  stroke-dasharray: 4 4;
  opacity: 0.6;
}
.knot {
  fill: var(--cloth);
  stroke: var(--peat);
  stroke-width: 1.5;
}
.ring {
  fill: none;
  stroke: var(--clay);
  stroke-width: 2;
}
.ring-name,
.in-ring {
  fill: var(--clay);
  color: var(--clay);
  font-size: 13px;
}
.told {
  list-style: none;
  margin: 12px 0 0;
  padding: 0;
}
.told li {
  display: flex;
  flex-wrap: wrap;
  gap: 10px;
  padding: 7px 14px;
}
.told li + li {
  border-top: 1px solid var(--warp);
}
.journal {
  margin-left: auto;
}
</style>
