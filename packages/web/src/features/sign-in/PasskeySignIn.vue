<script setup lang="ts">
import { PhFingerprint } from '@phosphor-icons/vue'
import { startAuthentication } from '@simplewebauthn/browser'
import { Button } from 'ant-design-vue'
import { answer, api } from '../../api/client.ts'
import { useSession } from '../../stores/session.ts'
import { useAttempt } from '../../ui/attempt.ts'
import { mayUsePasskeys, unlessCancelled } from '../../ui/passkey-words.ts'

/** Signs in with a passkey that this device or another one holds. Not shown where the browser knows none. */
const emit = defineEmits<{ done: [] }>()
const session = useSession()
const { busy, reason, attempt } = useAttempt()
const isKnown = mayUsePasskeys()

async function signIn(): Promise<void> {
  const done = await attempt(() =>
    session.signInBy(async () => {
      const optionsJSON = await answer(() => api.entry.passkey.options.$post())
      const response = await unlessCancelled(() => startAuthentication({ optionsJSON }))
      await answer(() => api.entry.passkey.$post({ json: { response } }))
    }),
  )
  if (done) emit('done')
}
</script>

<template>
  <div v-if="isKnown" class="passkey">
    <Button block size="large" :loading="busy" @click="signIn">
      <template #icon><PhFingerprint :size="18" class="icon" /></template>
      Use a passkey
    </Button>
    <p v-if="reason" class="why" role="alert">{{ reason }}</p>
  </div>
</template>

<style scoped>
.passkey {
  margin-top: 12px;
}
.icon {
  margin-right: 8px;
  vertical-align: -3px;
}
.why {
  color: var(--clay);
  margin: 10px 0 0;
}
</style>
