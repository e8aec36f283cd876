<script setup lang="ts">
import type { Remedy, TeamTold } from '@loom/core/planning'
import { ref, watch } from 'vue'
import { spanInWords } from './reason-words.ts'

/** What would give a task its time: sought when it is asked for, and taken by one press. */
const props = defineProps<{
  id: string
  /** Whose time it has none of. */
  person: string
  title: string
  /** What is found is of this draft. */
  told: TeamTold
  zone: string
  find: (person: string, id: string) => Promise<Remedy[]>
}>()
const emit = defineEmits<{ take: [pieces: Remedy['pieces']] }>()

const WORDS: Record<Remedy['kind'], string> = {
  'in parts': 'in parts',
  'outside its windows': 'outside its work windows',
  'without breaks': 'without a break',
  later: 'later',
}
const found = ref<Remedy[] | null>(null)
watch(
  () => props.told,
  () => (found.value = null),
)
async function seek(): Promise<void> {
  found.value = await props.find(props.person, props.id)
}
const where = ({ pieces }: Remedy): string => pieces.map(p => spanInWords(p, props.zone)).join(', ')
</script>

<template>
  <button
    v-if="found === null"
    type="button"
    class="plain link"
    :aria-label="`What would help ${title}?`"
    @click="seek"
  >
    What would help?
  </button>
  <p v-else-if="found.length === 0" class="quiet">No way was found that takes nothing from the rest.</p>
  <ul v-else>
    <li v-for="r in found" :key="r.kind">
      It fits {{ WORDS[r.kind] }}: {{ where(r) }}
      <button
        type="button"
        class="plain link"
        :aria-label="`${title} ${WORDS[r.kind]}`"
        @click="emit('take', r.pieces)"
      >
        Take it
      </button>
    </li>
  </ul>
</template>

<style scoped>
.link {
  color: var(--amber);
  text-decoration: underline;
  justify-self: start;
  font-size: 12.5px;
}
p,
ul {
  grid-column: 1 / -1;
  margin: 0;
  padding: 0;
  list-style: none;
  font-size: 12.5px;
}
li {
  padding: 1px 0;
}
</style>
