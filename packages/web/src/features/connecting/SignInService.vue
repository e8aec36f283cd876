<script setup lang="ts">
import { Button, Form, FormItem, Input, InputPassword } from 'ant-design-vue'
import { computed, reactive } from 'vue'
import type { Service } from './ChooseService.vue'

/**
 * The address and what else the service needs, or the way to its consent page. It is tried before anything is
 * stored.
 */
export interface Given {
  address: string
  user: string
  password: string
  key: string
}
const props = defineProps<{
  service: Service
  busy: boolean
  reason: string
  /** Another server that it redirects to and that was not agreed to yet. */
  otherServer?: string | null
  first?: Partial<Given>
}>()
const emit = defineEmits<{ go: [given: Given]; allow: [given: Given] }>()

const given = reactive<Given>({ address: '', user: '', password: '', key: '', ...props.first })
const complete = computed(
  () =>
    given.address.trim() !== '' &&
    (props.service.signIn === 'password'
      ? given.user !== ''
      : props.service.signIn === 'key'
        ? given.key !== ''
        : true),
)
const button = computed(() =>
  props.service.signIn === 'consent'
    ? `Go to ${props.service.name} and allow it`
    : props.service.signIn === 'none'
      ? 'Look what is there'
      : 'Sign in and look what is there',
)
</script>

<template>
  <Form
    layout="vertical"
    :model="given"
    :required-mark="false"
    class="form"
    @finish="emit('go', { ...given })"
  >
    <FormItem
      label="Address"
      :extra="
        service.id === 'caldav' ? 'The server’s name, or your mail address there, is enough.' : undefined
      "
    >
      <Input v-model:value="given.address" aria-label="Address" :placeholder="service.address" />
    </FormItem>
    <div v-if="service.signIn === 'password'" class="pair">
      <FormItem label="User name"
        ><Input v-model:value="given.user" aria-label="User name" autocomplete="off"
      /></FormItem>
      <FormItem label="Password"
        ><InputPassword v-model:value="given.password" aria-label="Password" autocomplete="new-password"
      /></FormItem>
    </div>
    <FormItem
      v-if="service.signIn === 'key'"
      :label="service.keyLabel"
      extra="You find it in the service’s own settings."
    >
      <InputPassword v-model:value="given.key" :aria-label="service.keyLabel" autocomplete="off" />
    </FormItem>
    <p v-if="service.signIn === 'consent'" class="quiet">
      You sign in there, on its own page, and come back here. Its password stays with it.
    </p>
    <p v-if="reason" class="why" role="alert">{{ reason }} Nothing was kept.</p>
    <p v-if="otherServer" class="other">
      <Button :loading="busy" @click="emit('allow', { ...given })"
        >Allow {{ otherServer }} as well, and sign in</Button
      >
    </p>
    <Button type="primary" html-type="submit" :loading="busy" :disabled="!complete">{{ button }}</Button>
  </Form>
</template>

<style scoped>
.form {
  max-width: 520px;
}
.pair {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 12px;
}
.why {
  color: var(--clay);
}
</style>
