<script setup lang="ts">
import { Modal } from 'ant-design-vue'
import { useSession } from '../../stores/session.ts'
import PasskeySignIn from './PasskeySignIn.vue'
import ProveForm from './ProveForm.vue'
import SignInForm from './SignInForm.vue'

/** Signs in again after the session expired; the page keeps its state. */
defineProps<{ email: string }>()
const session = useSession()
</script>

<template>
  <Modal
    open
    :title="session.person?.owes ? 'One more step' : 'Sign in again'"
    :closable="false"
    :footer="null"
    :mask-closable="false"
    :keyboard="false"
  >
    <ProveForm v-if="session.person?.owes" />
    <template v-else>
      <p class="quiet">Your session has ended. What you were doing is still here.</p>
      <SignInForm :email="email" />
      <PasskeySignIn />
    </template>
  </Modal>
</template>
