<script setup lang="ts">
import PageTabs from '../../ui/PageTabs.vue'

const PAGES = [
  { to: '/team', name: 'People' },
  { to: '/team/sharing', name: 'Who sees what' },
  { to: '/team/activity', name: 'Activity' },
]
</script>

<template>
  <PageTabs name="Pages about the team" :pages="PAGES" />
</template>
