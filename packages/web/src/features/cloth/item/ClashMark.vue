<!-- Two things at one time: two spans of which each ends within the other. -->
<template>
  <svg width="14" height="11" viewBox="0 0 14 11" aria-hidden="true">
    <path d="M1 1v4h8V1M5 10V6h8v4" fill="none" stroke="var(--clay)" stroke-width="2" />
  </svg>
</template>
