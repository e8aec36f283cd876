<script setup lang="ts">
import { useQuery } from '@pinia/colada'
import { Input, Modal } from 'ant-design-vue'
import { refDebounced } from '@vueuse/core'
import { computed, onBeforeUnmount, ref, watch } from 'vue'
import { answer, api } from '../../api/client.ts'
import type { Connection } from '../../stores/connections.ts'

/** Where what came in is to be found, above all what one does not see at a glance, with one step to it. */
const props = defineProps<{ connection: Connection }>()
const emit = defineEmits<{ close: []; problems: [] }>()

const typed = ref('')
const words = refDebounced(typed, 300)
/** The place that is shown whole. */
const whole = ref<keyof typeof PLACES | null>(null)
watch(words, () => (whole.value = null))
const query = useQuery({
  key: () => ['connections', 'whereabouts', props.connection.id, words.value, whole.value ?? ''],
  query: () =>
    answer(() =>
      api.connections[':id'].whereabouts.$get({
        param: { id: props.connection.id },
        query: { words: words.value.trim(), ...(whole.value && { whole: whole.value }) },
      }),
    ),
  placeholderData: before => before,
})
/** The service is still being looked through. */
const AGAIN_MS = 700
let again = 0
watch(
  () => query.data.value,
  data => {
    window.clearTimeout(again)
    if (data?.reading) again = window.setTimeout(() => void query.refetch(), AGAIN_MS)
  },
)
onBeforeUnmount(() => window.clearTimeout(again))

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
  'never-in': {
    words: 'at the service, and left out by what this connection brings in',
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
    <Input
      v-model:value="typed"
      allow-clear
      aria-label="Words of its title"
      placeholder="Words of its title"
    />
    <p v-if="words && query.data.value?.reading" class="quiet" role="status">Looking through the service…</p>
    <p v-else-if="query.data.value?.error" class="quiet" role="status">
      The service could not be looked through: {{ query.data.value.error }}
    </p>
    <p v-if="query.data.value && places.length === 0 && !query.data.value.reading" class="quiet">
      {{
        words ? 'Nothing here or at the service has these words in its title.' : 'Nothing has come in yet.'
      }}
    </p>
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
          <RouterLink v-if="i.key" :to="`/cloth?item=${i.key}`">{{ i.title }}</RouterLink>
          <span v-else>{{ i.title }}</span>
          <span class="quiet">{{ i.collection }}</span>
          <RouterLink v-if="i.week && p.place !== 'this-week'" :to="`/cloth?at=${i.week}`"
            >Show its week</RouterLink
          >
        </li>
      </ul>
      <button
        v-if="p.count > p.items.length && whole !== p.place"
        type="button"
        class="plain link"
        @click="whole = p.place"
      >
        Show all {{ p.count }}
      </button>
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
  margin-top: 10px;
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
  grid-template-columns: minmax(0, 1fr) 150px 110px;
  gap: 12px;
}
.link {
  color: var(--amber);
  text-decoration: underline;
}
</style>
