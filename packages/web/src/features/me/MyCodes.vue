<script setup lang="ts">
import { dayAt, dayWords } from '@loom/core/view'
import { useQuery } from '@pinia/colada'
import { Button, Input } from 'ant-design-vue'
import { computed, ref } from 'vue'
import { answer, api } from '../../api/client.ts'
import { say } from '../../stores/messages.ts'
import { useSession } from '../../stores/session.ts'
import { useAttempt } from '../../ui/attempt.ts'
import CodesSetup from '../sign-in/CodesSetup.vue'
import RecoveryCodes from '../sign-in/RecoveryCodes.vue'

/** One-time codes beside the password: set up, turned off, and recovery codes for the day the telephone is lost. */
const session = useSession()
const query = useQuery({
  key: ['account', 'second'],
  query: () => answer(() => api.account.second.$get()),
  staleTime: 0,
})
const codes = computed(() => query.data.value?.codes ?? null)
const since = computed(() =>
  codes.value ? dayWords(dayAt(codes.value.since, session.person?.zone ?? 'UTC')) : '',
)
const code = ref('')
const fresh = ref<string[]>([])
const { busy, reason, attempt } = useAttempt()

async function off(): Promise<void> {
  const json = { code: code.value }
  if (await attempt(() => answer(() => api.account.second.codes.off.$post({ json }))))
    say({ text: 'Codes are off: your password alone signs you in.' })
  code.value = ''
  await query.refetch()
}
async function renew(): Promise<void> {
  const json = { code: code.value }
  await attempt(async () => {
    fresh.value = (await answer(() => api.account.second.codes.recovery.$post({ json }))).recovery
  })
  code.value = ''
  await query.refetch()
}
</script>

<template>
  <div v-if="query.data.value">
    <h2>One-time codes</h2>
    <RecoveryCodes v-if="fresh.length > 0" :codes="fresh" @done="fresh = []" />
    <template v-else-if="codes">
      <p>
        On since {{ since }}: after your password you are asked for six digits of your authenticator.
        <span class="quiet">{{ codes.left }} recovery {{ codes.left === 1 ? 'code' : 'codes' }} left.</span>
      </p>
      <form @submit.prevent>
        <Input
          v-model:value="code"
          placeholder="A code"
          aria-label="A code, to change this"
          inputmode="numeric"
          autocomplete="one-time-code"
          :maxlength="40"
          class="digits"
        />
        <Button :loading="busy" :disabled="!code.trim()" @click="renew">New recovery codes</Button>
        <Button :loading="busy" :disabled="!code.trim()" @click="off">Turn off</Button>
      </form>
    </template>
    <template v-else>
      <p class="quiet">
        With them, whoever learns your password cannot sign in: six digits from your telephone are asked for
        as well.
      </p>
      <CodesSetup @done="query.refetch()" />
    </template>
    <p v-if="reason" class="why" role="alert">{{ reason }}</p>
  </div>
</template>

<style scoped>
h2,
p {
  margin: 0 0 10px;
}
form {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
}
.digits {
  width: 130px;
}
.why {
  margin-top: 8px;
  color: var(--clay);
}
</style>
