<script setup lang="ts">
import { clockWords, hourWords } from '../../../ui/telling.ts'
import { type ClothItem, epochOf, type HourRow, onDate } from '@loom/core/view'
import { computed, nextTick, onBeforeUnmount, onMounted, ref, watch } from 'vue'
import ClothRow from './ClothRow.vue'
import type { Held } from '../drag/drag.ts'
import { heldIn } from '../drag/row-landing.ts'
import type { PlanWindow } from '@loom/core/planning'
import { useWaitLines } from '../../../stores/waits.ts'
import { type Hem, hemsOf } from '../data/hems.ts'
import { keepEqual } from '../data/keep-equal.ts'
import type { OfferedSpan } from '../offers/use-offering.ts'
import { waitLines } from '../data/wait-lines.ts'
import WaitLines from './WaitLines.vue'
import type { Scene } from '../data/use-scene.ts'

/** Rows over the hours of a day: days, or on one day people or sources. */
const props = defineProps<{
  scene: Scene
  held: Held | null
  windows: readonly PlanWindow[]
  /** What of a day is offered to guests. */
  offeredOn: (date: string) => OfferedSpan[]
}>()
const emit = defineEmits<{
  toggle: [item: ClothItem]
  menu: [item: ClothItem, at: DOMRect]
  load: [row: HourRow, at: DOMRect]
  tick: [key: string, done: boolean]
  window: [id: string, date: string]
}>()

const axis = computed(() => props.scene.axis.value)
const body = computed(() => props.scene.body.value)
const named = computed(() => body.value.rows !== 'days')
const marks = computed(() => {
  const found: number[] = []
  for (let m = axis.value.from; m < axis.value.to; m += 60) found.push(m)
  return found
})
const left = (m: number): string => `${(100 * (m - axis.value.from)) / (axis.value.to - axis.value.from)}%`
/** The hours of a second zone over the first day that is shown. */
const secondWords = (m: number): string => {
  const zone = body.value.secondZone
  const day = props.scene.dates.value[0]
  if (!zone || !day) return ''
  return clockWords(epochOf(onDate(day), props.scene.zone.value) + m * 60_000, zone)
}
/** A wide axis begins where the day does, not at its first hour. */
const frame = ref<HTMLElement | null>(null)
watch(
  () => body.value.zoom,
  async zoom => {
    await nextTick()
    const track = frame.value?.querySelector<HTMLElement>('[data-drop="hour"]')
    if (!frame.value || !track || zoom === 1) return
    const today = props.scene.nowMinute(props.scene.today.value) ?? 0
    const begin = props.scene.dates.value.includes(props.scene.today.value)
      ? today - 60
      : axis.value.from + 60
    const share = (begin - axis.value.from) / (axis.value.to - axis.value.from)
    frame.value.scrollLeft = Math.max(0, share * track.offsetWidth)
  },
  { immediate: true, flush: 'post' },
)
/** How wide a minute is drawn, pixels. */
const minuteWidth = ref(0)
const hours = ref<HTMLElement | null>(null)
const measure = (): void => {
  const width = hours.value?.offsetWidth ?? 0
  minuteWidth.value = width / Math.max(1, axis.value.to - axis.value.from)
}
const resized = new ResizeObserver(measure)
watch(axis, measure)
onMounted(() => {
  measure()
  if (hours.value) resized.observe(hours.value)
})
onBeforeUnmount(() => resized.disconnect())
/** Among several people, the viewer's own row. */
const isOwn = (row: HourRow): boolean =>
  body.value.rows === 'people' && row.key.startsWith(`${props.scene.data.value?.me ?? ''} `)
/** Work windows and what is offered are drawn where the time is the viewer's own. */
const isOthers = (row: HourRow): boolean => body.value.rows !== 'days' && !isOwn(row)
const hems = computed<Map<string, Hem[]>>(was => {
  const { hoursOf, data, zone, rows } = props.scene
  const hours = hoursOf(data.value?.me ?? '')
  const own = props.windows.length === 0 ? [] : rows.value.filter(r => !isOthers(r))
  return new Map(
    own.map(r => [r.key, keepEqual(was?.get(r.key), hemsOf(r, props.windows, hours, zone.value))]),
  )
})
const offered = computed<Map<string, OfferedSpan[]>>(
  was => new Map(props.scene.dates.value.map(d => [d, keepEqual(was?.get(d), props.offeredOn(d))])),
)
const NONE: never[] = []
function offeredIn(row: HourRow): OfferedSpan[] {
  const all = offered.value.get(row.date) ?? NONE
  if (!isOthers(row)) return all
  const [person = ''] = row.key.split(' ')
  return all.some(o => o.people.includes(person)) ? all.filter(o => o.people.includes(person)) : NONE
}
const weave = ref<HTMLElement | null>(null)
const { pairs } = useWaitLines(() => props.scene.data.value !== undefined)
const lines = computed(() => waitLines(props.scene.shown.value, pairs.value))
const secondName = computed(() => body.value.secondZone?.split('/').at(-1)?.replaceAll('_', ' ') ?? '')
</script>

<template>
  <div ref="frame" class="sheet frame" :class="{ wide: body.zoom > 1, named }">
    <div
      ref="weave"
      class="weave"
      role="grid"
      :aria-label="scene.heading.value"
      :style="{
        '--hour': `${(100 * 60) / (axis.to - axis.from)}%`,
        '--zoom': body.zoom,
      }"
    >
      <div class="axis" aria-hidden="true">
        <span class="corner" />
        <span class="no-hour">{{
          secondName ? `above: ${secondName}` : 'All day, untimed, other hours'
        }}</span>
        <div ref="hours" class="hours" :class="{ two: secondName }">
          <span v-for="m in marks" :key="m" :style="{ left: left(m) }">
            <i v-if="secondName">{{ secondWords(m) }}</i>
            {{ hourWords(m) }}</span
          >
        </div>
      </div>
      <ClothRow
        v-for="row in scene.rows.value"
        :key="row.key"
        :row="row"
        :axis="axis"
        :minute-width="minuteWidth"
        :now="scene.nowMinute(row.date)"
        :sources="scene.sources.value"
        :held="heldIn(held, row)"
        :clashes="scene.clashes.value"
        :named="named"
        :person="body.rows === 'people'"
        :own="isOwn(row)"
        :alone="scene.rows.value.length === 1"
        :hems="hems.get(row.key) ?? NONE"
        :offered="offeredIn(row)"
        @toggle="item => emit('toggle', item)"
        @menu="(item, at) => emit('menu', item, at)"
        @load="at => emit('load', row, at)"
        @tick="(key, done) => emit('tick', key, done)"
        @window="id => emit('window', id, row.date)"
      />
      <WaitLines v-if="lines.length > 0" :over="weave" :lines="lines" />
    </div>
    <p v-if="scene.rows.value.length === 0" class="quiet none">
      Nothing of what this view shows has a time on these days.
    </p>
  </div>
</template>

<style scoped>
.weave {
  position: relative;
}
.wide {
  overflow-x: auto;
}
/* Names of people and sources want more room than those of days. */
@media (min-width: 721px) {
  .named {
    --label: 156px;
  }
}
.wide .weave {
  width: calc(100% * var(--zoom));
}
.wide .corner,
.wide .no-hour,
.wide .weave :deep(.label),
.wide .weave :deep(.row .head) {
  position: sticky;
  z-index: 7;
  background: var(--cloth);
}
.wide .corner,
.wide .weave :deep(.label) {
  left: 0;
}
.wide .no-hour,
.wide .weave :deep(.row .head) {
  left: var(--label);
}
.axis {
  display: grid;
  grid-template-columns: var(--label) var(--head) minmax(0, 1fr);
  font-size: 12px;
  color: var(--husk);
  min-height: 22px;
  line-height: 22px;
}
.no-hour {
  padding-left: 12px;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.hours {
  position: relative;
}
.hours.two {
  height: 38px;
}
.hours span {
  position: absolute;
  padding-left: 4px;
}
.hours.two span {
  line-height: 18px;
}
.hours i {
  display: block;
  font-style: normal;
  opacity: 0.8;
}
.none {
  padding: 20px;
  margin: 0;
}
@media (max-width: 720px) {
  .frame {
    overflow-x: auto;
  }
  .weave > * {
    min-width: 900px;
  }
}
</style>
