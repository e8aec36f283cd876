<script setup lang="ts">
import { useQuery } from '@pinia/colada'
import { Modal } from 'ant-design-vue'
import { computed } from 'vue'
import { answer, api } from '../../api/client.ts'
import type { Connection } from '../../stores/connections.ts'

const props = defineProps<{ connection: Connection }>()
const emit = defineEmits<{ close: [] }>()

const query = useQuery({
  key: () => ['connections', 'problems', props.connection.id],
  query: () => answer(() => api.connections[':id'].problems.$get({ param: { id: props.connection.id } })),
})
const problems = computed(() => query.data.value?.problems ?? [])
</script>

<template>
  <Modal
    open
    :title="`Not understood at ${connection.name}`"
    :footer="null"
    :width="640"
    @cancel="emit('close')"
  >
    <p class="quiet">
      These are left untouched at the service, and everything else goes on. Once one is put right there, it
      appears here.
    </p>
    <details v-for="p in problems" :key="`${p.collection} ${p.remoteId}`">
      <summary>
        <strong>{{ p.reason }}</strong> <span class="quiet">{{ p.collection }} · {{ p.remoteId }}</span>
      </summary>
      <pre>{{ p.original }}</pre>
    </details>
  </Modal>
</template>

<style scoped>
pre {
  background: var(--idle);
  border: 1px solid var(--warp);
  padding: 8px;
  max-height: 220px;
  overflow: auto;
  font-size: 12px;
}
summary {
  cursor: pointer;
  padding: 4px 0;
  overflow-wrap: anywhere;
}
</style>
