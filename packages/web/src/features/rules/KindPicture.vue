<script setup lang="ts">
import type { ReadyMade } from '@loom/core/view'
import { computed } from 'vue'

/** A picture of a kind of rule in the Cloth's own signs: both sides, and the direction. */
const props = defineProps<{ kind: ReadyMade }>()

const ways = computed(() => {
  const { fields } = props.kind.settings
  const all = Object.values(fields)
  return {
    forth: all.some(w => w === 'both' || w === 'a-to-b') && props.kind.settings.made.a !== 'nothing',
    back: all.some(w => w === 'both' || w === 'b-to-a'),
  }
})
/** Of a busy span only that it is there is seen. */
const isBare = computed(() => props.kind.settings.title === 'Busy')
const isAllDay = computed(() => props.kind.settings.date === 'due')
</script>

<template>
  <svg class="picture" width="190" height="44" viewBox="0 0 190 44" aria-hidden="true">
    <g v-for="(side, i) in [kind.kinds.a, kind.kinds.b]" :key="i" :transform="`translate(${i * 120 + 1} 5)`">
      <g v-if="side === 'task'" class="task">
        <rect x="0.5" y="0.5" width="66" height="32" rx="3" />
        <rect x="8.5" y="11.5" width="10" height="10" rx="1" class="box" />
        <path d="M25 16.5h30" class="words" />
      </g>
      <g v-else class="event">
        <rect x="0" y="0" width="68" height="34" rx="3" :class="{ free: isAllDay && i === 1 }" />
        <rect x="0" y="0" width="5" height="34" class="edge" />
        <path v-if="!(isBare && i === 1)" d="M13 16.5h38" class="words" />
        <path v-else d="M16 6v22M24 6v22M32 6v22M40 6v22M48 6v22M56 6v22" class="hatch" />
      </g>
    </g>
    <path v-if="ways.forth" d="M76 17h32m-6 -5l6 5-6 5" class="way" />
    <path v-if="ways.back" d="M110 28h-32m6 -5l-6 5 6 5" class="way" />
  </svg>
</template>

<style scoped>
.task rect {
  fill: var(--cloth);
  stroke: var(--husk);
}
.event rect {
  fill: color-mix(in srgb, var(--lagoon, #1c6c77) var(--tint), var(--cloth));
}
.event .free {
  fill: none;
  stroke: var(--husk);
  stroke-dasharray: 3 2;
}
.event .edge {
  fill: var(--lagoon, #1c6c77);
}
.words {
  stroke: var(--husk);
  stroke-width: 3;
}
.hatch {
  stroke: var(--warp-strong);
  stroke-width: 2;
}
.way {
  fill: none;
  stroke: var(--amber);
  stroke-width: 2;
}
</style>
