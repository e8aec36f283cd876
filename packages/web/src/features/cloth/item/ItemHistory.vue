<script setup lang="ts">
import { clockWords, valueWords } from '../../../ui/telling.ts'
import { FIELD_WORDS, instantDayWords, reasonWords } from '@loom/core/view'
import { useQuery } from '@pinia/colada'
import { computed } from 'vue'
import { answer, api } from '../../../api/client.ts'

/** The latest of what sync and people did to an item, on both of its sides. */
const props = defineProps<{ item: string; zone: string }>()
const key = computed(() => props.item)
const query = useQuery({
  key: () => ['journal', 'item', key.value],
  query: () => answer(() => api.journal.$get({ query: { item: key.value } })),
})
const lines = computed(() => (query.data.value?.lines ?? []).slice(0, 5))
</script>

<template>
  <section aria-label="History">
    <h3>History</h3>
    <p v-if="query.data.value && lines.length === 0" class="quiet">No changes yet.</p>
    <ul>
      <li v-for="l in lines" :key="l.id">
        <span class="quiet">{{ instantDayWords(l.at, zone) }} {{ clockWords(l.at, zone) }}</span>
        {{ reasonWords(l.cause) }}{{ l.who ? `, ${l.who}` : '' }}
        <div v-for="f in l.fields.slice(0, 3)" :key="f.field" class="quiet">
          {{ FIELD_WORDS[f.field] }}: {{ valueWords(f.before, zone) ?? '—' }} →
          {{ valueWords(f.after, zone) ?? '—' }}
        </div>
      </li>
    </ul>
    <RouterLink v-if="lines.length > 0" :to="{ path: '/journal', query: { item: key } }"
      >Its whole history</RouterLink
    >
  </section>
</template>

<style scoped>
h3 {
  margin: 16px 0 6px;
}
ul {
  list-style: none;
  margin: 0 0 6px;
  padding: 0;
}
li {
  padding: 5px 0;
  border-top: 1px solid var(--warp);
  overflow-wrap: anywhere;
}
</style>
