<script setup lang="ts">
import { LEVEL_WORDS, LEVELS } from '@loom/core/view'
import { computed } from 'vue'
import { askSentences } from '../team/asks.ts'
import type { Preview } from './use-preview.ts'

/** Who will see what by a rule that they do not see without it, as far as that is known here. */
const props = defineProps<{ preview: Preview; names: { a: string; b: string } }>()

const namesOf = (names: readonly string[]): string =>
  names.length <= 3 ? names.join(', ') : `${names.slice(0, 2).join(', ')} and ${names.length - 2} more`
const openings = computed(() =>
  (['a', 'b'] as const).flatMap(from => {
    const to = props.names[from === 'a' ? 'b' : 'a']
    const opened = props.preview.opened.filter(o => o.side === from)
    const lines = LEVELS.flatMap(level => {
      const who = opened.filter(o => o.to === level).map(o => o.name)
      return who.length === 0
        ? []
        : [`${namesOf(who)} will see ${LEVEL_WORDS[level].name} of ${props.names[from]} in ${to}.`]
    })
    return lines.length > 0
      ? [...lines, `And whoever sees ${to} at its service, marks and links included.`]
      : []
  }),
)
</script>

<template>
  <div v-if="openings.length > 0 || preview.asks.length > 0" class="audience" role="note">
    <b>Who will see what</b>
    <ul>
      <li v-for="o in openings" :key="o">{{ o }}</li>
    </ul>
    <p v-for="s in askSentences(preview.asks)" :key="s">{{ s }}</p>
  </div>
</template>

<style scoped>
.audience {
  margin: 0 0 10px;
  padding: 8px 12px;
  background: var(--amber-wash);
  border-radius: 2px;
}
ul {
  margin: 4px 0 0;
  padding-left: 18px;
}
p {
  margin: 6px 0 0;
  color: var(--clay);
}
</style>
