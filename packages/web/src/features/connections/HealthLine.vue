<script setup lang="ts">
import type { Health } from '../../stores/connections.ts'

/** A bead whose shape and words say how a connection fares. */
defineProps<{ health: Health }>()
</script>

<template>
  <div class="health" :class="health.tone" role="status">
    <span class="bead" aria-hidden="true" />
    <div>
      <strong>{{ health.words }}</strong><span v-if="health.tone === 'well'" class="quiet"
        >, {{ health.detail }}</span
      >
      <template v-else>
        <span v-if="health.detail" class="detail">{{ `. ${health.detail}` }}</span>
        <span v-if="health.advice" class="quiet">{{ ` ${health.advice}` }}</span>
      </template>
    </div>
  </div>
</template>

<style scoped>
.health {
  display: flex;
  gap: 9px;
  align-items: baseline;
}
.bead {
  width: 9px;
  height: 9px;
  flex: none;
  border-radius: 50%;
  background: var(--moss);
}
.wrong .bead {
  border-radius: 0;
  transform: rotate(45deg);
  background: var(--clay);
}
.busy .bead {
  border-radius: 0;
  background: var(--amber);
}
.resting .bead {
  background: none;
  border: 2px solid var(--husk);
  box-sizing: border-box;
}
.wrong .detail {
  color: var(--clay);
}
</style>
