<script setup lang="ts">
import { computed } from 'vue'
import PageTabs from '../../ui/PageTabs.vue'
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
  <PageTabs name="Pages about rules" :pages="pages" />
</template>
