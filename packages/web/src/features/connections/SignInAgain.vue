<script setup lang="ts">
import { Button, Form, FormItem, Input, InputPassword, Modal } from 'ant-design-vue'
import { computed, reactive } from 'vue'
import { answer, api } from '../../api/client.ts'
import { useAttempt } from '../../ui/attempt.ts'
import { say } from '../../stores/messages.ts'
import { useOtherServer } from '../../stores/other-server.ts'
import type { Connection } from '../../stores/connections.ts'

/** Signs in again to a connection that is there. Nothing about it is lost. */
const props = defineProps<{ connection: Connection }>()
const emit = defineEmits<{ close: [] }>()

const given = reactive({ user: '', password: '', key: '' })
const { busy, reason, attempt } = useAttempt()
const { otherServer, agreed, agree, asking } = useOtherServer()
function allowAndGo(): Promise<void> {
  agree()
  return go()
}
const complete = computed(() =>
  props.connection.signIn === 'password' ? given.user !== '' && given.password !== '' : given.key !== '',
)

async function go(): Promise<void> {
  const done = await attempt(async () => {
    const param = { id: props.connection.id }
    const json = { ...given, alsoAt: agreed.value }
    const { consent } = await asking(() =>
      answer(() => api.connections[':id'].credentials.$put({ param, json })),
    )
    if (consent) window.location.assign(consent)
  })
  if (!done || props.connection.signIn === 'consent') return
  say({ text: `${props.connection.name}: signed in again. What waited is sent now.` })
  emit('close')
}
</script>

<template>
  <Modal
    open
    :title="`Sign in again to ${connection.name}`"
    :footer="null"
    :width="480"
    @cancel="emit('close')"
  >
    <Form layout="vertical" :model="given" :required-mark="false" @finish="go">
      <p v-if="connection.signIn === 'consent'">You sign in on its own page and come back here.</p>
      <template v-else-if="connection.signIn === 'password'">
        <FormItem label="User name"
          ><Input v-model:value="given.user" aria-label="User name" autocomplete="off"
        /></FormItem>
        <FormItem label="Password"
          ><InputPassword v-model:value="given.password" aria-label="Password" autocomplete="new-password"
        /></FormItem>
      </template>
      <FormItem v-else label="Access key">
        <InputPassword v-model:value="given.key" aria-label="Access key" autocomplete="off" />
      </FormItem>
      <p v-if="reason" class="why" role="alert">{{ reason }} What was known before is kept.</p>
      <p v-if="otherServer">
        <Button :loading="busy" @click="allowAndGo">Allow {{ otherServer }} as well, and sign in</Button>
      </p>
      <div class="foot">
        <Button @click="emit('close')">Cancel</Button>
        <Button
          type="primary"
          html-type="submit"
          :loading="busy"
          :disabled="connection.signIn !== 'consent' && !complete"
          >{{ connection.signIn === 'consent' ? 'Go to its page' : 'Sign in' }}</Button
        >
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
