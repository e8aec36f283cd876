<script setup lang="ts">
import { durationWords, type WeekDay } from '@loom/core/view'

/** Each day of the week: how full it is, and what is free of it, span by span. */
defineProps<{ days: readonly WeekDay[]; name: (date: string) => string }>()
const share = ({ load }: WeekDay): number =>
  load.capacity === 0 ? 0 : Math.min(1, load.committed / load.capacity)
const MOST = 3
const freeWords = ({ free }: WeekDay): string => {
  const longest = [...free].sort((x, y) => y - x)
  const more = longest.length - MOST
  const words = longest.slice(0, MOST).map(durationWords).join(', ')
  return words === '' ? 'nothing free' : `free ${words}${more > 0 ? `, ${more} shorter` : ''}`
}
</script>

<template>
  <ol aria-label="Days">
    <li v-for="d in days" :key="d.date" :class="{ over: d.load.committed > d.load.capacity }">
      <b>{{ name(d.date) }}</b>
      <span class="bar" aria-hidden="true"><span :style="{ width: `${share(d) * 100}%` }" /></span>
      <span v-if="d.load.capacity === 0" class="quiet"
        >day off{{ d.load.committed > 0 ? `, ${durationWords(d.load.committed)} planned` : '' }}</span
      >
      <span v-else
        >{{ durationWords(d.load.committed) }} of {{ durationWords(d.load.capacity) }}
        <span class="quiet free">{{ freeWords(d) }}</span></span
      >
    </li>
  </ol>
</template>

<style scoped>
ol {
  list-style: none;
  margin: 0;
  padding: 6px 14px;
  border-bottom: 1px solid var(--warp);
}
li {
  display: grid;
  grid-template-columns: 34px 44px minmax(0, 1fr);
  gap: 8px;
  align-items: center;
  padding: 2px 0;
  font-size: 13px;
}
.bar {
  height: 6px;
  background: var(--warp);
  border-radius: 2px;
}
.bar span {
  display: block;
  height: 100%;
  background: var(--husk);
  border-radius: 2px;
}
.over .bar span {
  background: var(--clay);
}
.free {
  white-space: nowrap;
}
.over > span:last-child {
  color: var(--clay);
}
</style>
