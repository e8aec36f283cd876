<script setup lang="ts">
import type { RuleView } from './use-rules.ts'

/** A rule's notices, and what of them needs a decision. */
defineProps<{ rule: RuleView }>()
</script>

<template>
  <p v-for="n in rule.notices" :key="n" class="why">{{ n }}</p>
  <p v-if="rule.conflicts > 0" class="why">
    <RouterLink to="/rules/conflicts"
      >{{ rule.conflicts }} {{ rule.conflicts === 1 ? 'field waits' : 'fields wait' }} for you</RouterLink
    >
  </p>
  <p v-if="rule.unconfirmed > 0" class="why">
    <RouterLink to="/rules/conflicts"
      >Of {{ rule.unconfirmed }} new {{ rule.unconfirmed === 1 ? 'item' : 'items' }} it cannot be told whether
      {{ rule.unconfirmed === 1 ? 'it was' : 'they were' }} made</RouterLink
    >
  </p>
  <p v-if="rule.braked > 0" class="why">
    <RouterLink to="/rules/brake"
      >{{ rule.braked }} {{ rule.braked === 1 ? 'item waits' : 'items wait' }} at the brake for a
      yes</RouterLink
    >
  </p>
</template>

<style scoped>
.why {
  color: var(--clay);
  margin: 4px 0;
}
.why a {
  color: inherit;
}
</style>
