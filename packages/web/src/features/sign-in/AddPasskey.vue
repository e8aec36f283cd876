<script setup lang="ts">
import { startRegistration } from '@simplewebauthn/browser'
import { Button, Input } from 'ant-design-vue'
import { ref } from 'vue'
import { answer, api } from '../../api/client.ts'
import { say } from '../../stores/messages.ts'
import { useAttempt } from '../../ui/attempt.ts'
import { mayUsePasskeys, unlessCancelled } from '../../ui/passkey-words.ts'

/** Makes a passkey on this device and keeps it under a name. Not shown where the browser knows none. */
const emit = defineEmits<{ done: [] }>()
const { busy, reason, attempt } = useAttempt()
const name = ref('')
const may = mayUsePasskeys()

async function add(): Promise<void> {
  const called = name.value.trim() || 'Passkey'
  const done = await attempt(async () => {
    const optionsJSON = await answer(() => api.account.passkeys.options.$post())
    const response = await unlessCancelled(() => startRegistration({ optionsJSON }))
    await answer(() => api.account.passkeys.$post({ json: { name: called, response } }))
  })
  if (!done) return
  name.value = ''
  say({ text: `${called} is kept. You can sign in with it from now on.` })
  emit('done')
}
</script>

<template>
  <form v-if="may" @submit.prevent="add">
    <Input
      v-model:value="name"
      :maxlength="100"
      placeholder="What you call it: my laptop"
      aria-label="Name of the new passkey"
    />
    <Button html-type="submit" :loading="busy">Add a passkey</Button>
    <p v-if="reason" class="why" role="alert">{{ reason }}</p>
  </form>
</template>

<style scoped>
form {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  max-width: 420px;
}
form > :first-child {
  flex: 1;
  min-width: 180px;
}
.why {
  width: 100%;
  margin: 0;
  color: var(--clay);
}
</style>
