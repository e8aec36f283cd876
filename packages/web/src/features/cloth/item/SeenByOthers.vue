<script setup lang="ts">
import SentenceChoice from '../../../ui/SentenceChoice.vue'
import type { Kept } from '../data/further-time.ts'
import { AS } from '../data/adding-time.ts'

/** What others see of time that is kept in a calendar, as the end of a sentence. */
const kept = defineModel<Kept>({ required: true })
const NAMED = [
  { value: 'named' as const, label: 'with its title' },
  { value: 'private' as const, label: 'private, without its title' },
]
</script>

<template>
  <span
    >there
    <SentenceChoice
      :model-value="kept.busy ? 'busy' : 'free'"
      :options="AS"
      name="Kept as"
      @update:model-value="v => (kept = { ...kept, busy: v === 'busy' })" />,
    <SentenceChoice
      :model-value="kept.named ? 'named' : 'private'"
      :options="NAMED"
      name="What others see of it"
      @update:model-value="v => (kept = { ...kept, named: v === 'named' })"
  /></span>
</template>
