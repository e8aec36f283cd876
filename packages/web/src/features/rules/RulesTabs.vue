<script setup lang="ts">
import { computed } from 'vue'
import { useRules } from './use-rules.ts'

/** The pages about rules, with what waits on each. */
const { rules, unconfirmed } = useRules()
const sum = (of: 'conflicts' | 'braked') => rules.value.reduce((n, r) => n + r[of], 0)
const pages = computed(() => [
  { to: '/rules', name: 'Rules', n: 0 },
  { to: '/rules/conflicts', name: 'Conflicts', n: sum('conflicts') + unconfirmed.value },
  { to: '/rules/brake', name: 'Brake', n: sum('braked') },
  { to: '/rules/chains', name: 'Chains', n: 0 },
])
</script>

<template>
  <nav aria-label="Pages about rules">
    <RouterLink v-for="p in pages" :key="p.to" :to="p.to" exact-active-class="here"
      >{{ p.name }} <span v-if="p.n > 0" class="n">{{ p.n }}</span></RouterLink
    >
  </nav>
</template>

<style scoped>
nav {
  display: flex;
  gap: 4px;
  margin-bottom: 12px;
  border-bottom: 1px solid var(--warp);
}
a {
  padding: 5px 10px;
  color: inherit;
  text-decoration: none;
  border-bottom: 3px solid transparent;
}
a:hover {
  border-color: var(--warp-strong);
}
.here {
  border-color: var(--amber);
  font-weight: 700;
}
.n {
  padding: 0 6px;
  border-radius: 2px;
  background: var(--clay-wash);
  color: var(--clay);
}
</style>
