<script setup lang="ts">
import type { Remedy, TeamTold } from '@loom/core/planning'
import { durationWords } from '@loom/core/view'
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
  titleOf: (id: string) => string
  find: (person: string, id: string) => Promise<Remedy[]>
}>()
const emit = defineEmits<{ take: [remedy: Remedy] }>()

function words(remedy: Remedy): string {
  switch (remedy.kind) {
    case 'in parts':
      return 'in parts'
    case 'outside its windows':
      return 'outside its work windows'
    case 'without breaks':
      return 'without a break'
    case 'later':
      return 'later'
    case 'moving':
      return `where “${props.titleOf(remedy.what.key)}” is, which goes to ${spanInWords(remedy.what, props.zone)}`
    case 'instead of': {
      const lost = durationWords(remedy.minutes)
      const title = `“${props.titleOf(remedy.of)}”`
      return remedy.minutes === 0
        ? `where ${title} is, which goes elsewhere`
        : `instead of ${title}, of which ${lost} have no place then`
    }
  }
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
    <li v-for="(r, n) in found" :key="n">
      It fits {{ words(r) }}: {{ where(r) }}
      <button type="button" class="plain link" :aria-label="`${title} ${words(r)}`" @click="emit('take', r)">
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
