<script setup lang="ts">
import { Button, Form, FormItem, Input, Modal } from 'ant-design-vue'
import { ref } from 'vue'
import { answer, api } from '../../api/client.ts'
import { useAttempt } from '../../ui/attempt.ts'
import { say } from '../../stores/messages.ts'
import type { Connection } from '../../stores/connections.ts'

/** A new calendar at the service, which takes part at once. */
const props = defineProps<{ connection: Pick<Connection, 'id' | 'name'> }>()
const emit = defineEmits<{ close: []; made: [id: string] }>()
const name = ref('')
const { busy, reason, attempt } = useAttempt()

async function make(): Promise<void> {
  let made = ''
  const done = await attempt(async () => {
    const { id } = await answer(() =>
      api.connections[':id'].collections.$post({
        param: { id: props.connection.id },
        json: { name: name.value },
      }),
    )
    made = id
  })
  if (!done) return
  emit('made', made)
  say({ text: `${name.value} is there now, and takes part.` })
  emit('close')
}
</script>

<template>
  <Modal
    open
    :title="`Make a calendar at ${connection.name}`"
    :footer="null"
    :width="440"
    @cancel="emit('close')"
  >
    <Form layout="vertical" :model="{ name }" @finish="make">
      <FormItem label="Its name"
        ><Input v-model:value="name" aria-label="Its name" :maxlength="100"
      /></FormItem>
      <p v-if="reason" class="why" role="alert">{{ reason }}</p>
      <div class="foot">
        <Button @click="emit('close')">Cancel</Button>
        <Button type="primary" html-type="submit" :loading="busy" :disabled="!name.trim()">Make it</Button>
      </div>
    </Form>
  </Modal>
</template>

<style scoped>
.foot {
  display: flex;
  justify-content: flex-end;
  gap: 8px;
}
.why {
  color: var(--clay);
}
</style>
