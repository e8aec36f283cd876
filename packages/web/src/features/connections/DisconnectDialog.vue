<script setup lang="ts">
import { useQuery } from '@pinia/colada'
import { Button, Modal } from 'ant-design-vue'
import { answer, api } from '../../api/client.ts'
import { useAttempt } from '../../ui/attempt.ts'
import { say } from '../../stores/messages.ts'
import type { Connection } from '../../stores/connections.ts'

/** Says in counts what goes and what stays, before anything does. */
const props = defineProps<{ connection: Connection }>()
const emit = defineEmits<{ close: [] }>()

const { busy, reason, attempt } = useAttempt()
const query = useQuery({
  key: () => ['connections', 'leaving', props.connection.id],
  query: () => answer(() => api.connections[':id'].leaving.$get({ param: { id: props.connection.id } })),
  staleTime: 0,
})
const of = (n: number, one: string, many: string): string => `${n} ${n === 1 ? one : many}`

async function go(): Promise<void> {
  const done = await attempt(() =>
    answer(() => api.connections[':id'].$delete({ param: { id: props.connection.id } })),
  )
  if (!done) return
  say({ text: `${props.connection.name} is disconnected.` })
  emit('close')
}
</script>

<template>
  <Modal open :title="`Disconnect ${connection.name}?`" :footer="null" :width="520" @cancel="emit('close')">
    <div v-if="query.data.value" class="both">
      <section>
        <h3>Goes, here</h3>
        <ul>
          <li>{{ of(query.data.value.items, 'item', 'items') }} of it on the Cloth</li>
          <li>
            {{ of(query.data.value.rules, 'rule', 'rules') }} that
            {{ query.data.value.rules === 1 ? 'uses' : 'use' }} it, with
            {{ of(query.data.value.ties, 'tie', 'ties') }}
          </li>
          <li v-if="query.data.value.estimates > 0">
            {{ of(query.data.value.estimates, 'estimate', 'estimates') }} that only we hold
          </li>
          <li v-if="query.data.value.waiting > 0" class="why">
            {{ of(query.data.value.waiting, 'change', 'changes') }} that did not reach it yet
          </li>
        </ul>
      </section>
      <section>
        <h3>Stays</h3>
        <ul>
          <li>everything at {{ connection.name }} itself</li>
          <li>what its items are tied to, where that lives</li>
          <li>the journal</li>
        </ul>
      </section>
    </div>
    <p v-if="reason" class="why" role="alert">{{ reason }}</p>
    <div class="foot">
      <Button @click="emit('close')">Cancel</Button>
      <Button danger type="primary" :loading="busy" @click="go">Disconnect</Button>
    </div>
  </Modal>
</template>

<style scoped>
.both {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 18px;
}
ul {
  padding-left: 18px;
  margin: 6px 0 16px;
}
.foot {
  display: flex;
  justify-content: flex-end;
  gap: 8px;
}
.why {
  color: var(--clay);
}
</style>
