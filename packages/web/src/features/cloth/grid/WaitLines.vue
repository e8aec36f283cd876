<script setup lang="ts">
import { useEventListener, useResizeObserver } from '@vueuse/core'
import { nextTick, ref, watch } from 'vue'
import type { WaitLine } from '../data/wait-lines.ts'

/**
 * Lines from what comes before to what waits for it: of what is looked at, and always where something begins before it
 * may. Drawn over the rows; the drawer and each item say the same in words.
 */
const props = defineProps<{ over: HTMLElement | null; lines: readonly WaitLine[] }>()

interface Drawn {
  key: string
  path: string
  wrong: boolean
}
const drawn = ref<Drawn[]>([])
/** What the pointer is on, or the focus. */
const looked = ref('')

function keyAt(event: Event): string {
  return event.target instanceof Element
    ? (event.target.closest<HTMLElement>('[data-key]')?.dataset.key ?? '')
    : ''
}
const over = (): HTMLElement | null => props.over
useEventListener(over, 'pointerover', event => (looked.value = keyAt(event)))
useEventListener(over, 'pointerleave', () => (looked.value = ''))
useEventListener(over, 'focusin', event => (looked.value = keyAt(event)))
useEventListener(over, 'focusout', () => (looked.value = ''))

function draw(): void {
  const root = props.over
  const wanted = props.lines.filter(l => l.wrong || l.from === looked.value || l.to === looked.value)
  if (!root || wanted.length === 0) {
    drawn.value = []
    return
  }
  const frame = root.getBoundingClientRect()
  const boxOf = (key: string): DOMRect | undefined =>
    root.querySelector(`[data-key="${CSS.escape(key)}"]`)?.getBoundingClientRect()
  drawn.value = wanted.flatMap(({ from, to, wrong }) => {
    const [a, b] = [boxOf(from), boxOf(to)]
    if (!a || !b) return []
    const [x1, y1] = [a.right - frame.left, (a.top + a.bottom) / 2 - frame.top]
    const [x2, y2] = [b.left - frame.left, (b.top + b.bottom) / 2 - frame.top]
    // Out to the right, along its edge, and in from the left: over as few words as can be.
    const out = x1 + 7
    const into = x2 - 9
    const beside = (y2 > y1 ? a.bottom + 2 : a.top - 2) - frame.top
    const middle = Math.abs(y2 - y1) < 4 ? y1 : beside
    const path = `M${x1} ${y1}H${out}V${middle}H${into}V${y2}H${x2}m-5-4l5 4l-5 4`
    return [{ key: `${from} ${to}`, path, wrong }]
  })
}
watch([() => props.lines, looked, () => props.over], () => void nextTick(draw), { immediate: true })
useResizeObserver(over, draw)
</script>

<template>
  <svg v-if="drawn.length > 0" class="waits" aria-hidden="true">
    <path v-for="d in drawn" :key="d.key" :d="d.path" :class="{ wrong: d.wrong }" />
  </svg>
</template>

<style scoped>
.waits {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
  pointer-events: none;
  z-index: 6;
}
path {
  fill: none;
  stroke: var(--husk);
  stroke-width: 1.5;
}
.wrong {
  stroke: var(--clay);
  stroke-dasharray: 4 2;
}
</style>
