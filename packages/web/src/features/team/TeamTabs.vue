<script setup lang="ts">
import { computed } from 'vue'
import PageTabs from '../../ui/PageTabs.vue'
import { useRequests } from './use-requests.ts'

const { forMe } = useRequests()
const pages = computed(() => [
  { to: '/team', name: 'People' },
  { to: '/team/sharing', name: 'Who sees what' },
  { to: '/team/requests', name: 'Requests', n: forMe.value.length },
  { to: '/team/activity', name: 'Activity' },
])
</script>

<template>
  <PageTabs name="Pages about the team" :pages="pages" />
</template>
