<script setup lang="ts">
import { durationWords, MINUTE } from '@loom/core/view'
import { computed, ref } from 'vue'
import { zoneChoices } from '../../../ui/zones.ts'
import { dayWord, hourWord, zoneName } from '../../offered/local-words.ts'
import { runsOf } from '../../offered/runs.ts'

/** The offer as text for a letter or a chat, with times in the guest's zone. */
const props = defineProps<{
  offer: { link: string; title: string; starts: readonly number[]; minutes: number }
  zone: string
}>()
const emit = defineEmits<{ copied: [] }>()
const theirs = ref(props.zone)
const zones = zoneChoices(props.zone, Date.now())
const MOST_DAYS = 10
const text = computed(() => {
  const { title, starts, minutes, link } = props.offer
  const zone = theirs.value
  const days = [...runsOf(starts, minutes, zone)].slice(0, MOST_DAYS).map(([, runs]) => {
    const spans = runs.map(r => `${hourWord(r.fromMs, zone)}–${hourWord(r.toMs, zone)}`)
    return `${dayWord((runs[0]?.fromMs ?? 0) + MINUTE, zone)}: ${spans.join(', ')}`
  })
  const times = days.length > 0 ? [`These times would do (${zoneName(zone)}):`, ...days, ''] : []
  return [`${title}, ${durationWords(minutes)}`, ...times, `Choose one here: ${link}`].join('\n')
})
async function copy(what: string): Promise<void> {
  await navigator.clipboard.writeText(what)
  emit('copied')
}
</script>

<template>
  <label class="zone"
    >Times in
    <select v-model="theirs" class="native">
      <option v-for="z in zones" :key="z.value" :value="z.value">{{ z.label }}</option>
    </select>
  </label>
  <textarea class="native" readonly rows="7" aria-label="Text to send" :value="text"></textarea>
  <span class="acts">
    <button type="button" class="push primary" @click="copy(text)">Copy the text</button>
    <button type="button" class="push" @click="copy(offer.link)">Only the address</button>
  </span>
</template>

<style scoped>
.zone {
  display: flex;
  align-items: center;
  gap: 8px;
  width: 100%;
  color: var(--husk);
  white-space: nowrap;
}
.zone select {
  flex: 1;
  min-width: 0;
}
textarea.native {
  height: auto;
  padding: 6px 8px;
}
.acts {
  display: flex;
  gap: 8px;
}
</style>
