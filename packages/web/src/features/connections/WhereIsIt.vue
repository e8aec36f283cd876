<script setup lang="ts">
import { useQuery } from '@pinia/colada'
import { Modal } from 'ant-design-vue'
import { computed } from 'vue'
import { answer, api } from '../../api/client.ts'
import type { Connection } from '../../stores/connections.ts'

/** Where what came in is to be found, above all what one does not see at a glance, with one step to it. */
const props = defineProps<{ connection: Connection }>()
const emit = defineEmits<{ close: []; problems: [] }>()

const query = useQuery({
  key: () => ['connections', 'whereabouts', props.connection.id],
  query: () => answer(() => api.connections[':id'].whereabouts.$get({ param: { id: props.connection.id } })),
})

const PLACES = {
  'this-week': { words: 'on this week’s rows of the Cloth', to: '/cloth', step: 'Show the week' },
  earlier: { words: 'in earlier weeks', to: null, step: '' },
  later: { words: 'in later weeks', to: null, step: '' },
  shelf: { words: 'on the shelf, without a time', to: '/cloth', step: 'Show the shelf' },
  done: { words: 'done, and without a time: the Cloth does not draw them', to: null, step: '' },
  outside: {
    words: 'left out by what this connection brings in',
    to: 'settings',
    step: 'Change what comes in',
  },
  'not-taking-part': { words: 'in lists that are not synced', to: 'settings', step: 'Change what is synced' },
  'not-understood': { words: 'not understood', to: 'problems', step: 'See why' },
} as const
const ORDER = Object.keys(PLACES) as (keyof typeof PLACES)[]

const places = computed(() =>
  [...(query.data.value?.places ?? [])].sort((x, y) => ORDER.indexOf(x.place) - ORDER.indexOf(y.place)),
)
const target = (to: string): string =>
  to === 'settings' ? `/connections/${props.connection.id}/settings` : to
</script>

<template>
  <Modal
    open
    :title="`Where is what came from ${connection.name}?`"
    :footer="null"
    :width="640"
    @cancel="emit('close')"
  >
    <p v-if="query.data.value && places.length === 0" class="quiet">Nothing has come in yet.</p>
    <section v-for="p in places" :key="p.place">
      <header>
        <h3>{{ p.count }} {{ PLACES[p.place].words }}</h3>
        <button
          v-if="PLACES[p.place].to === 'problems'"
          type="button"
          class="plain link"
          @click="emit('problems')"
        >
          {{ PLACES[p.place].step }}
        </button>
        <RouterLink v-else-if="PLACES[p.place].to" :to="target(PLACES[p.place].to ?? '')">{{
          PLACES[p.place].step
        }}</RouterLink>
      </header>
      <ul>
        <li v-for="(i, n) in p.items" :key="n">
          <span>{{ i.title }}</span> <span class="quiet">{{ i.collection }}</span>
          <RouterLink v-if="i.week && p.place !== 'this-week'" :to="`/cloth?week=${i.week}`"
            >Show its week</RouterLink
          >
        </li>
      </ul>
    </section>
  </Modal>
</template>

<style scoped>
section {
  padding: 8px 0;
  border-top: 1px solid var(--warp);
}
section:first-of-type {
  border-top: 0;
}
header {
  display: flex;
  justify-content: space-between;
  gap: 12px;
}
ul {
  list-style: none;
  margin: 4px 0 0;
  padding: 0;
}
li {
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto 110px;
  gap: 12px;
}
.link {
  color: var(--amber);
  text-decoration: underline;
}
</style>
