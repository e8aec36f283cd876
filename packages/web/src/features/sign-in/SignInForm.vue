<script setup lang="ts">
import { Button, Form, FormItem, Input, InputPassword } from 'ant-design-vue'
import { reactive, ref } from 'vue'
import { Refused } from '../../api/client.ts'
import { useSession } from '../../stores/session.ts'

const props = defineProps<{ email: string }>()
const emit = defineEmits<{ done: [] }>()

const session = useSession()
const given = reactive({ email: props.email, password: '' })
const reason = ref('')
const busy = ref(false)

async function submit(): Promise<void> {
  busy.value = true
  reason.value = ''
  try {
    await session.signIn(given.email.trim(), given.password)
    given.password = ''
    emit('done')
  } catch (error) {
    if (!(error instanceof Refused)) throw error
    reason.value = error.message
  } finally {
    busy.value = false
  }
}
</script>

<template>
  <Form layout="vertical" :model="given" :required-mark="false" @finish="submit">
    <FormItem
      label="Mail address"
      name="email"
      :rules="[{ required: true, message: 'Type your mail address.' }]"
    >
      <Input
        v-model:value="given.email"
        :autofocus="props.email === ''"
        type="email"
        autocomplete="username"
        size="large"
      />
    </FormItem>
    <FormItem label="Password" name="password" :rules="[{ required: true, message: 'Type your password.' }]">
      <InputPassword
        v-model:value="given.password"
        :autofocus="props.email !== ''"
        autocomplete="current-password"
        size="large"
      />
    </FormItem>
    <p v-if="reason" class="reason" role="alert">{{ reason }}</p>
    <Button type="primary" html-type="submit" size="large" block :loading="busy">Sign in</Button>
  </Form>
</template>

<style scoped>
.reason {
  color: var(--clay);
  margin: 0 0 12px;
}
</style>
