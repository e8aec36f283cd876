<script setup lang="ts">
import { computed } from 'vue'
import { stitchesOf } from '../data/signs.ts'

/** None to three short stitches; what they say is in the item's name. */
const props = defineProps<{ priority: number }>()
const stitches = computed(() => stitchesOf(props.priority))
</script>

<template>
  <span v-if="stitches > 0" class="stitches" aria-hidden="true"><i v-for="n in stitches" :key="n" /></span>
</template>

<style scoped>
.stitches {
  display: inline-flex;
  gap: 2px;
}
.stitches i {
  width: 6px;
  height: 0;
  border-top: 2px solid var(--peat);
  transform: rotate(-55deg);
}
</style>
