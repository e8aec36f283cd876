<script setup lang="ts">
import { onBeforeUnmount } from 'vue'
import { useSession } from '../../stores/session.ts'

/** That one looks as somebody else, and the way back. */
const session = useSession()
onBeforeUnmount(() => (session.seesAs = null))
</script>

<template>
  <p v-if="session.seesAs" class="as" role="status">
    <span
      ><b>As {{ session.seesAs.name }} sees it</b>, as far as you see it yourself. Nothing can be changed
      here.</span
    >
    <button type="button" class="push" @click="session.seesAs = null">Back to my own</button>
  </p>
</template>

<style scoped>
.as {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  justify-content: space-between;
  gap: 4px 14px;
  margin: 0 0 8px;
  padding: 6px 12px;
  background: var(--amber-wash);
  border-left: 3px solid var(--amber);
  border-radius: 2px;
}
</style>
