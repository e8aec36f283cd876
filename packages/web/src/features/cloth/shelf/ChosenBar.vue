<script setup lang="ts">
import { type ClothItem, durationWords, lengthOf } from '@loom/core/view'
import { computed } from 'vue'
import { useSession } from '../../../stores/session.ts'
import { type Command, COMMANDS, type Outcome } from '../data/commands.ts'

/** Several items are chosen: what can be done to all of them at once. */
const props = defineProps<{
  items: readonly ClothItem[]
  now: number
  zone: string
  defaultMinutes: number
}>()
const emit = defineEmits<{ act: [outcome: Outcome]; clear: [] }>()
const minutes = computed(() => props.items.reduce((n, i) => n + lengthOf(i, props.defaultMinutes), 0))
const session = useSession()
const commands = COMMANDS.filter(c => c.several !== undefined && !session.onlyLooks)
/** As it is meant for one that is still to be done. */
function act(command: Command): void {
  const { now, zone, defaultMinutes, items } = props
  const terms = { now, zone, defaultMinutes, task: null, onlyLooks: false, clocked: null, unsupported: [] }
  const one = items.find(i => !i.done && command.fits(i, terms)) ?? items[0]
  if (one) emit('act', command.outcome(one, terms))
}
</script>

<template>
  <section class="chosen" aria-label="Chosen items">
    <span role="status">{{ items.length }} chosen · {{ durationWords(minutes) }}</span>
    <button v-for="c in commands" :key="c.several" type="button" class="push small" @click="act(c)">
      {{ c.several }}
    </button>
    <button type="button" class="push small" @click="emit('clear')">Clear selection</button>
  </section>
</template>

<style scoped>
.chosen {
  position: fixed;
  left: 50%;
  bottom: 14px;
  transform: translateX(-50%);
  z-index: 700;
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 8px;
  padding: 8px 12px;
  background: var(--cloth);
  border: 1px solid var(--warp-strong);
  border-top: 3px solid var(--amber);
  border-radius: 3px;
  box-shadow: var(--float);
  width: max-content;
  max-width: calc(100vw - 28px);
  box-sizing: border-box;
}
</style>
