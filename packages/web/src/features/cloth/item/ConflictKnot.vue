<template>
  <svg class="knot" width="15" height="11" viewBox="0 0 15 11" aria-hidden="true">
    <path
      d="M1 9c4 0 4-7 7-7 2.4 0 2.4 4 0 4C4.6 6 6 9 14 9"
      fill="none"
      stroke="var(--clay)"
      stroke-width="2"
      stroke-linecap="round"
    />
  </svg>
</template>
