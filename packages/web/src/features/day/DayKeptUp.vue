<script setup lang="ts">
import { computed, ref } from 'vue'
import { useKeptUp } from '../../stores/kept-up.ts'
import { askWords, causeWords, momentWords } from '../../ui/kept-up-words.ts'

/** What went elsewhere by itself in the last days, why, and the way back; and what has to be decided. */
const props = defineProps<{ now: number; zone: string }>()
const emit = defineEmits<{ open: [key: string] }>()

const TOLD_MS = 2 * 86_400_000
const { passes, undo } = useKeptUp()
const shown = computed(() => passes.value.filter(p => p.atMs > props.now - TOLD_MS).slice(0, 8))
const underway = ref('')
async function putBack(id: string): Promise<void> {
  underway.value = id
  try {
    await undo(id)
  } finally {
    underway.value = ''
  }
}
</script>

<template>
  <section v-if="shown.length > 0" class="sheet card" aria-labelledby="kept-up">
    <h2 id="kept-up">Kept up by itself</h2>
    <div v-for="p in shown" :key="p.id" class="pass" :class="{ undone: p.undone }">
      <p class="quiet when">
        <span>{{ momentWords(p.atMs, zone) }}</span>
        <button
          v-if="!p.undone && p.steps.length > 0"
          type="button"
          class="push small"
          :disabled="underway !== ''"
          @click="putBack(p.id)"
        >
          Put back
        </button>
        <span v-else-if="p.undone">put back</span>
      </p>
      <p v-for="s in p.steps" :key="s.piece">
        <button type="button" class="plain title" @click="emit('open', s.key)">{{ s.title }}</button>
        <span class="quiet">
          {{ momentWords(s.from.fromMs, zone) }} → {{ momentWords(s.to.fromMs, zone) }}:
          {{ causeWords(s.cause) }}</span
        >
      </p>
      <p v-for="a in p.asks" :key="a.key" class="ask">
        <button type="button" class="plain title" @click="emit('open', a.key)">{{ a.title }}</button>
        <span class="quiet">
          {{ momentWords(a.at.fromMs, zone) }} is yours to decide: {{ causeWords(a.cause) }}, and
          {{ askWords[a.because] }}</span
        >
      </p>
      <p v-if="p.refused" class="ask">
        {{ p.refused.title }} <span class="quiet">stays: {{ p.refused.reason }}</span>
      </p>
    </div>
  </section>
</template>

<style scoped>
.card {
  padding: 0 0 4px;
}
h2 {
  padding: 10px 12px 4px;
  margin: 0;
}
.pass {
  border-top: 1px solid var(--warp);
  padding: 6px 12px 8px;
  display: grid;
  gap: 4px;
}
p {
  margin: 0;
  font-size: 13px;
  overflow-wrap: anywhere;
}
.when {
  display: flex;
  justify-content: space-between;
  align-items: center;
  font-size: 12.5px;
}
.title {
  display: block;
  font-weight: 600;
  text-align: left;
}
.title:hover {
  text-decoration: underline;
}
.undone .title {
  font-weight: 400;
}
.ask .title {
  color: var(--clay);
}
</style>
