<script setup lang="ts">
import SentenceChoice from '../../app/SentenceChoice.vue'
import { KEPT_BUSY, KEPT_NAMED, type Kept } from './kept-time.ts'

/** What others see of time that is kept in a calendar, as the end of a sentence. */
const kept = defineModel<Kept>({ required: true })
</script>

<template>
  <span
    >, there
    <SentenceChoice
      :model-value="kept.busy ? 'busy' : 'free'"
      :options="KEPT_BUSY"
      name="Kept as"
      @update:model-value="v => (kept = { ...kept, busy: v === 'busy' })" />,
    <SentenceChoice
      :model-value="kept.named ? 'named' : 'private'"
      :options="KEPT_NAMED"
      name="What others see of it"
      @update:model-value="v => (kept = { ...kept, named: v === 'named' })"
  /></span>
</template>
