<script setup lang="ts">
import { durationWords, type Load } from '@loom/core/view'
import { computed } from 'vue'

const props = defineProps<{ load: Load; small?: boolean }>()

const words = computed(() => {
  const { committed, capacity, withoutEstimate } = props.load
  const guess = withoutEstimate > 0 ? `, ${withoutEstimate} without estimate` : ''
  if (capacity === 0)
    return { figure: committed === 0 ? 'day off' : `${durationWords(committed)}, day off`, guess }
  return { figure: `${durationWords(committed)} of ${durationWords(capacity)}`, guess }
})
const hint = computed(() => {
  const { parts, withoutEstimate } = props.load
  const told = [
    parts.meetings > 0 ? `${durationWords(parts.meetings)} in events` : '',
    parts.travel > 0 ? `${durationWords(parts.travel)} of travel` : '',
    parts.breaks > 0 ? `${durationWords(parts.breaks)} of breaks` : '',
    parts.blocks > 0 ? `${durationWords(parts.blocks)} of work with an hour` : '',
    parts.planned > 0 ? `${durationWords(parts.planned)} planned without an hour` : '',
    withoutEstimate > 0 ? `${withoutEstimate} without estimate` : '',
  ].filter(Boolean)
  const more = props.load.atLeast ? 'At least: of some taken time only that is shared with you' : ''
  return [words.value.figure, ...told, more].filter(Boolean).join('\n')
})
const over = computed(() => props.load.committed > props.load.capacity)
const drawn = computed(() => {
  const { taken, free, over: extra } = props.load.threads
  // Beyond eight hours too many, more threads say nothing more.
  return [
    ...Array.from({ length: taken }, () => 'taken'),
    ...Array.from({ length: free }, () => 'free'),
    ...Array.from({ length: Math.min(extra, 16) }, () => 'over'),
  ]
})
</script>

<template>
  <div class="load" :class="{ over, small }" :title="hint">
    <div class="threads" aria-hidden="true"><i v-for="(kind, i) in drawn" :key="i" :class="kind" /></div>
    <div class="figure">
      {{ small ? (over ? words.figure.split(' of ')[0] : '') : words.figure
      }}<span class="visually-hidden">{{ over ? ', more than the day holds' : '' }}{{ words.guess }}</span>
    </div>
  </div>
</template>

<style scoped>
.threads {
  display: flex;
  gap: 2px;
  height: 10px;
  margin: 4px 0 2px;
}
i {
  width: 3px;
  height: 10px;
  flex: none;
}
.taken {
  background: var(--peat);
}
.free {
  background: var(--warp-strong);
}
.over {
  color: var(--clay);
}
i.over {
  background: var(--clay);
  transform: skewX(-18deg);
}
.small {
  display: flex;
  align-items: center;
  gap: 6px;
}
.small .threads {
  margin: 0;
  height: 7px;
  gap: 1px;
}
.small i {
  height: 7px;
  width: 2px;
}
.figure {
  font-size: 12px;
  color: var(--husk);
  white-space: nowrap;
}
.load.over .figure {
  color: var(--clay);
  font-weight: 700;
}
@media (max-width: 720px) {
  .figure {
    white-space: normal;
    font-size: 11.5px;
    line-height: 1.15;
  }
}
</style>
