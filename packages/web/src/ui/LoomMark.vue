<script setup lang="ts">
withDefaults(defineProps<{ size?: number }>(), { size: 28 })
</script>

<!-- A bead with two threads that cross inside it. -->
<template>
  <svg :width="size" :height="size" viewBox="0 0 32 32" aria-hidden="true">
    <circle cx="16" cy="16" r="13" fill="#E8A33D" />
    <g fill="none" stroke="#2B211A" stroke-linecap="round">
      <path stroke-width="3.200" d="M3.600 12.500c5.500 0 7 7 12.400 7s6.900-7 12.400-7" />
      <path stroke="#E8A33D" stroke-width="6" d="M13.200 14.200 18.800 17.800" />
      <path stroke-width="3.200" d="M3.600 19.500c5.500 0 7-7 12.400-7s6.900 7 12.400 7" />
    </g>
  </svg>
</template>
