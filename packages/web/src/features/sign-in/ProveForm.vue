<script setup lang="ts">
import { useQuery } from '@pinia/colada'
import { startAuthentication } from '@simplewebauthn/browser'
import { Button, Input } from 'ant-design-vue'
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'
import { answer, api } from '../../api/client.ts'
import { useSession } from '../../stores/session.ts'
import { useAttempt } from '../../ui/attempt.ts'
import { mayUsePasskeys, unlessCancelled } from '../../ui/passkey-words.ts'
import AddPasskey from './AddPasskey.vue'
import CodesSetup from './CodesSetup.vue'

/** More than a password: a code or a passkey, or setting one of them up where there is none yet. */
const session = useSession()
const router = useRouter()
const query = useQuery({
  key: ['account', 'second'],
  query: () => answer(() => api.account.second.$get()),
  staleTime: 0,
})
const has = computed(() => query.data.value)
const mayPasskey = mayUsePasskeys()
const code = ref('')
const { busy, reason, attempt } = useAttempt()

async function prove(by: () => Promise<unknown>): Promise<void> {
  await attempt(() => session.signInBy(by))
  code.value = ''
}
const byCode = () => prove(() => answer(() => api.account.second.code.$post({ json: { code: code.value } })))
const byPasskey = () =>
  prove(async () => {
    const optionsJSON = await answer(() => api.account.second.passkey.options.$post())
    const response = await unlessCancelled(() => startAuthentication({ optionsJSON }))
    await answer(() => api.account.second.passkey.$post({ json: { response } }))
  })
/** It is there, and proves this session as well. */
const setUp = () => prove(() => Promise.resolve())
async function leave(): Promise<void> {
  await session.signOut()
  await router.replace('/sign-in')
}
</script>

<template>
  <div v-if="has" class="prove">
    <template v-if="session.person?.owes === 'proof'">
      <form v-if="has.codes" class="code" @submit.prevent="byCode">
        <label>
          The six digits that your authenticator shows now, or a recovery code
          <Input
            v-model:value="code"
            autofocus
            size="large"
            inputmode="numeric"
            autocomplete="one-time-code"
            :maxlength="40"
          />
        </label>
        <Button type="primary" html-type="submit" size="large" block :loading="busy" :disabled="!code.trim()"
          >Go on</Button
        >
      </form>
      <Button v-if="has.passkeys > 0 && mayPasskey" size="large" block :loading="busy" @click="byPasskey"
        >Use a passkey</Button
      >
    </template>
    <template v-else>
      <p>
        This workspace wants more than a password from everybody: six digits from your telephone{{
          mayPasskey ? ', or a passkey of this device' : ''
        }}. You set it up once.
      </p>
      <CodesSetup @done="setUp" />
      <AddPasskey @done="setUp" />
    </template>
    <p v-if="reason" class="why" role="alert">{{ reason }}</p>
    <p><button type="button" class="plain link" @click="leave">Sign out</button></p>
  </div>
</template>

<style scoped>
.prove,
.code {
  display: grid;
  gap: 12px;
}
.code label {
  display: grid;
  gap: 6px;
}
p {
  margin: 0;
}
.link {
  color: var(--amber);
  text-decoration: underline;
}
.why {
  color: var(--clay);
}
</style>
