<script setup lang="ts">
import { type ClothItem, dayAt, durationWords, type Edit, lengthOf, mondayOf } from '@loom/core/view'
import { computed } from 'vue'

/** Several items are chosen: what can be done to all of them at once. */
const props = defineProps<{
  items: readonly ClothItem[]
  now: number
  zone: string
  defaultMinutes: number
}>()
const emit = defineEmits<{ edit: [edit: Edit]; ask: [act: 'place' | 'put-by' | 'give']; clear: [] }>()
const minutes = computed(() => props.items.reduce((n, i) => n + lengthOf(i, props.defaultMinutes), 0))
const week = computed(() => mondayOf(dayAt(props.now, props.zone)))
</script>

<template>
  <section class="chosen" aria-label="Chosen items">
    <span role="status">{{ items.length }} chosen · {{ durationWords(minutes) }}</span>
    <button type="button" class="push small" @click="emit('edit', { do: 'complete' })">Complete</button>
    <button type="button" class="push small" @click="emit('ask', 'place')">Place at…</button>
    <button type="button" class="push small" @click="emit('edit', { do: 'any-day', week })">
      Any day this week
    </button>
    <button type="button" class="push small" @click="emit('ask', 'put-by')">Put by…</button>
    <button type="button" class="push small" @click="emit('ask', 'give')">Assign to…</button>
    <button type="button" class="push small" @click="emit('edit', { do: 'unplace' })">To the shelf</button>
    <button type="button" class="push small" @click="emit('clear')">Clear selection</button>
  </section>
</template>

<style scoped>
.chosen {
  position: fixed;
  left: 50%;
  bottom: 14px;
  transform: translateX(-50%);
  z-index: 700;
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 8px;
  padding: 8px 12px;
  background: var(--cloth);
  border: 1px solid var(--warp-strong);
  border-top: 3px solid var(--amber);
  border-radius: 3px;
  box-shadow: var(--float);
  width: max-content;
  max-width: calc(100vw - 28px);
  box-sizing: border-box;
}
</style>
