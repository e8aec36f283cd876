<script setup lang="ts">
import { Modal } from 'ant-design-vue'
import PasskeySignIn from './PasskeySignIn.vue'
import SignInForm from './SignInForm.vue'

/** Signs in again after the session expired; the page keeps its state. */
defineProps<{ email: string }>()
const emit = defineEmits<{ done: [] }>()
</script>

<template>
  <Modal open title="Sign in again" :closable="false" :footer="null" :mask-closable="false" :keyboard="false">
    <p class="quiet">Your session has ended. What you were doing is still here.</p>
    <SignInForm :email="email" @done="emit('done')" />
    <PasskeySignIn @done="emit('done')" />
  </Modal>
</template>
