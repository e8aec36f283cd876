<script setup lang="ts">
import { useQuery } from '@pinia/colada'
import { computed } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { answer, api } from '../../api/client.ts'
import EntryPage from '../entry/EntryPage.vue'
import PasskeySignIn from './PasskeySignIn.vue'
import SignInForm from './SignInForm.vue'

const route = useRoute()
const router = useRouter()
const entry = useQuery({ key: ['entry'], query: () => answer(() => api.entry.$get()) })
const begins = computed(() => entry.data.value?.begins === true)

/** Only to a place of ours. */
function go(): void {
  const to = typeof route.query.to === 'string' ? route.query.to : ''
  void router.replace(to.startsWith('/') && !to.startsWith('//') ? to : '/cloth')
}
</script>

<template>
  <EntryPage v-if="begins" title="Nobody has begun here yet">
    <p>
      Where this server was started, its log shows an address that begins with
      <b>Begin here</b>. Open it: you make your account and your workspace there.
    </p>
    <p class="quiet">It can be used once, within a day. Each start of the server shows a new one.</p>
  </EntryPage>
  <EntryPage v-else title="Sign in">
    <SignInForm email="" @done="go" />
    <PasskeySignIn @done="go" />
    <p class="forgot"><RouterLink to="/forgot">Forgot your password?</RouterLink></p>
  </EntryPage>
</template>

<style scoped>
.forgot {
  margin-top: 16px;
  text-align: center;
}
</style>
