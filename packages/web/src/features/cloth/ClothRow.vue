<script setup lang="ts">
import { type ClothItem, dayWords, durationWords, longDayWords, minuteWords, type Row } from '@loom/core/view'
import { computed } from 'vue'
import ClothBlock from './ClothBlock.vue'
import type { Held } from './drag.ts'
import LoadThreads from './LoadThreads.vue'
import type { Source } from './signs.ts'
import TaskLine from './TaskLine.vue'

const props = defineProps<{
  row: Row
  axis: { from: number; to: number }
  hours: { from: number; to: number }
  /** Minute after midnight, if the present moment is in this row. */
  now: number | null
  sources: readonly Source[]
  held: Held | null
}>()
const emit = defineEmits<{ toggle: [item: ClothItem]; menu: [item: ClothItem, at: DOMRect] }>()

const day = computed(() => longDayWords(props.row.date))
const share = (minutes: number): string => `${(100 * minutes) / (props.axis.to - props.axis.from)}%`
const off = computed(() => {
  const { axis, hours, row } = props
  if (!row.working) return [{ left: '0%', width: '100%' }]
  return [
    { left: '0%', width: share(Math.max(0, hours.from - axis.from)) },
    { left: share(hours.to - axis.from), width: share(Math.max(0, axis.to - hours.to)) },
  ]
})
const lanes = computed(() => Math.max(1, ...props.row.blocks.map(b => b.lanes)))
const height = computed(() => Math.max(63, lanes.value * 27 + 4, props.row.head.length * 20 + 10))

/** Where the held item would land in this row, and what it would do to the day's load. */
const landing = computed(() => {
  const target = props.held?.target
  if (!props.held || !target || target.kind === 'shelf' || target.date !== props.row.date) return null
  const { item } = props.held
  const here = [...props.row.head, ...props.row.blocks.map(b => b.item)].find(i => i.key === item.key)
  const was =
    here?.place.kind === 'timed'
      ? (here.place.endMs - here.place.startMs) / 60_000
      : here
        ? (item.estimate ?? 30)
        : 0
  const adds = target.kind === 'hour' ? target.minutes : (item.estimate ?? 30)
  const load = `${durationWords(props.row.load.committed - was + adds)} of ${durationWords(props.row.load.capacity)}`
  const over = props.row.load.committed - was + adds > props.row.load.capacity
  if (target.kind === 'day') return { kind: 'day' as const, load, over }
  const to = target.from + target.minutes
  return {
    kind: 'hour' as const,
    left: share(target.from - props.axis.from),
    width: share(target.minutes),
    span: `${minuteWords(target.from)}–${minuteWords(to)}`,
    load,
    over,
  }
})
</script>

<template>
  <section
    class="row"
    :class="{ today: row.today, idle: !row.working }"
    :aria-label="day"
    :style="{ height: `${height}px` }"
  >
    <div class="label">
      <h2 :title="day">{{ dayWords(row.date).replace(/ \w+$/, '') }}</h2>
      <LoadThreads :load="row.load" />
    </div>
    <div class="head" data-drop="day" :data-date="row.date" :class="{ target: landing?.kind === 'day' }">
      <TaskLine
        v-for="item in row.head"
        :key="item.key"
        :item="item"
        :sources="sources"
        :lifted="held?.item.key === item.key"
        @toggle="emit('toggle', item)"
        @menu="at => emit('menu', item, at)"
      />
      <span v-if="landing?.kind === 'day'" class="note" :class="{ over: landing.over }"
        >no hour · {{ landing.load }}</span
      >
    </div>
    <div class="track" data-drop="hour" :data-date="row.date">
      <div v-for="(o, i) in off" :key="i" class="off" :style="o" />
      <ClothBlock
        v-for="b in row.blocks"
        :key="b.item.key"
        :block="b"
        :axis="axis"
        :sources="sources"
        :day="day"
        :lifted="held?.item.key === b.item.key"
        :data-from="b.from"
        @toggle="emit('toggle', b.item)"
        @menu="at => emit('menu', b.item, at)"
      />
      <div
        v-if="landing?.kind === 'hour'"
        class="landing"
        :style="{ left: landing.left, width: landing.width }"
      >
        <span class="note" :class="{ over: landing.over }">{{ landing.span }} · {{ landing.load }}</span>
      </div>
      <div
        v-if="now !== null && now >= axis.from && now <= axis.to"
        class="now"
        :style="{ left: share(now - axis.from) }"
      >
        <span class="visually-hidden">Now, {{ minuteWords(now) }}</span>
      </div>
    </div>
  </section>
</template>

<style scoped>
.row {
  display: grid;
  grid-template-columns: var(--label) var(--head) minmax(0, 1fr);
  border-top: 1px solid var(--warp);
}
.label {
  padding: 5px 10px 4px;
  border-right: 1px solid var(--warp);
  overflow: hidden;
}
.label h2 {
  font-size: 15px;
}
.today .label {
  box-shadow: inset 3px 0 0 var(--amber);
}
.head {
  border-right: 1px solid var(--warp);
  padding: 5px 6px;
  display: grid;
  align-content: start;
  gap: 2px;
  min-width: 0;
  overflow: hidden;
}
.head.target {
  background: var(--amber-wash);
}
.track {
  position: relative;
  background: repeating-linear-gradient(90deg, var(--warp) 0 1px, transparent 1px var(--hour));
  background-position: -1px 0;
}
.off {
  position: absolute;
  inset: 0 auto;
  background: var(--idle);
  opacity: 0.75;
}
.idle .label,
.idle .head {
  background: var(--idle);
}
.landing {
  position: absolute;
  inset: 2px auto;
  border: 2px solid var(--amber);
  border-radius: 3px;
  background: color-mix(in srgb, var(--amber) 14%, transparent);
  z-index: 5;
  pointer-events: none;
  box-sizing: border-box;
}
.note {
  font-size: 12px;
  font-weight: 700;
  color: var(--peat);
  background: var(--cloth);
  padding: 0 5px;
  white-space: nowrap;
  border-radius: 2px;
}
.landing .note {
  position: absolute;
  left: 2px;
  bottom: 2px;
}
.note.over {
  color: var(--clay);
}
.now {
  position: absolute;
  inset: 0 auto;
  width: 2px;
  margin-left: -1px;
  background: var(--amber);
  z-index: 4;
  pointer-events: none;
}
.now::before {
  content: '';
  position: absolute;
  left: -4px;
  top: 0;
  border: 5px solid transparent;
  border-top-color: var(--amber);
  border-bottom: 0;
}
</style>
