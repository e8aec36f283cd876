<script setup lang="ts">
import type { Level } from '@loom/core/view'

/** A level as it is drawn: empty, hatched, a line for the title, full, and full with a hem that may be moved. */
defineProps<{ level: Level; dye?: string; faint?: boolean }>()
</script>

<template>
  <span
    class="swatch"
    :class="[level, { faint }]"
    :style="dye ? { '--dye': dye } : undefined"
    aria-hidden="true"
  />
</template>

<style scoped>
.swatch {
  --dye: #1c6c77;
  display: block;
  box-sizing: border-box;
  width: 64px;
  height: 20px;
  border: 1px solid var(--husk);
  border-radius: 2px;
  background: var(--cloth);
}
.busy {
  background: repeating-linear-gradient(90deg, var(--warp-strong) 0 1px, transparent 1px 6px) var(--cloth);
}
.title {
  background: linear-gradient(currentcolor, currentcolor) 0 50% / 60% 3px no-repeat var(--cloth);
}
.everything,
.change {
  background: color-mix(in srgb, var(--dye) 42%, var(--cloth));
}
.change {
  border-bottom: 4px dotted var(--dye);
}
/* What follows from a grant to others, and not from one of their own. */
.faint {
  opacity: 0.55;
}
</style>
