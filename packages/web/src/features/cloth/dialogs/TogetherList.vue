<script setup lang="ts">
import type { ClothItem } from '@loom/core/view'

/** Names everything that a dialog is about, where that is more than one thing. */
defineProps<{ items: readonly ClothItem[] }>()
</script>

<template>
  <ul v-if="items.length > 1" class="together" :aria-label="`All ${items.length}`">
    <li v-for="i in items" :key="i.key">{{ i.title }}</li>
  </ul>
</template>

<style scoped>
.together {
  margin: 0 0 12px;
  padding: 6px 10px 6px 26px;
  max-height: 150px;
  overflow: auto;
  background: var(--linen);
  border: 1px solid var(--warp);
}
</style>
