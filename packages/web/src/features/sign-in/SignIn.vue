<script setup lang="ts">
import { useQuery } from '@pinia/colada'
import { Button } from 'ant-design-vue'
import { computed, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { answer, api } from '../../api/client.ts'
import { useSession } from '../../stores/session.ts'
import EntryPage from '../entry/EntryPage.vue'
import PasskeySignIn from './PasskeySignIn.vue'
import ProveForm from './ProveForm.vue'
import SignInForm from './SignInForm.vue'

const route = useRoute()
const router = useRouter()
const session = useSession()
const entry = useQuery({ key: ['entry'], query: () => answer(() => api.entry.$get()) })
const begins = computed(() => entry.data.value?.begins === true)

const provider = computed(() => entry.data.value?.provider ?? null)
/** Why somebody who comes back from the identity provider does not get in. */
const NO_ENTRY: Record<string, string> = {
  refused: 'You were not signed in there, or it took too long. Try again.',
  'not-verified':
    'Your mail address has not been verified there, so it does not say who you are here. Sign in by password.',
  'not-invited':
    'Nobody of that mail address is invited here. Ask a coordinator for an invitation, and try again.',
  'no-answer': 'It does not answer at the moment. Sign in by password, or try again later.',
}
const no = computed(() => (typeof route.query.no === 'string' ? (NO_ENTRY[route.query.no] ?? null) : null))

/** Only to a place of ours. */
function go(): void {
  if (session.person?.owes) return
  const to = typeof route.query.to === 'string' ? route.query.to : ''
  void router.replace(to.startsWith('/') && !to.startsWith('//') ? to : '/cloth')
}
/** The form of that step is gone by the time it is taken. */
watch(
  () => session.person?.owes,
  (owes, before) => {
    if (session.person && before && !owes) go()
  },
)
</script>

<template>
  <EntryPage v-if="begins" title="Nobody has begun here yet">
    <p>
      Where this server was started, its log shows an address that begins with
      <b>Begin here</b>. Open it: you make your account and your workspace there.
    </p>
    <p class="quiet">It can be used once, within a day. Each start of the server shows a new one.</p>
  </EntryPage>
  <EntryPage v-else-if="session.person?.owes" title="One more step" wide>
    <ProveForm />
  </EntryPage>
  <EntryPage v-else title="Sign in">
    <SignInForm email="" @done="go" />
    <PasskeySignIn @done="go" />
    <Button v-if="provider" block size="large" href="/api/entry/provider" class="provider">
      Sign in by {{ provider }}
    </Button>
    <p v-if="no" class="why" role="alert">{{ no }}</p>
    <p class="forgot"><RouterLink to="/forgot">Forgot your password?</RouterLink></p>
  </EntryPage>
</template>

<style scoped>
.provider {
  margin-top: 12px;
}
.why {
  color: var(--clay);
  margin: 10px 0 0;
}
.forgot {
  margin-top: 16px;
  text-align: center;
}
</style>
