<script setup lang="ts">
import { Button, Form, FormItem, Input } from 'ant-design-vue'
import { reactive, ref } from 'vue'
import { answer, api } from '../../api/client.ts'
import { useAttempt } from '../../ui/attempt.ts'
import EntryPage from './EntryPage.vue'

/** A new password comes by mail. Whether there is such an account, nobody is told. */
const { busy, reason, attempt } = useAttempt()
const given = reactive({ email: '' })
const mailed = ref<boolean | null>(null)
const send = () =>
  attempt(async () => {
    mailed.value = (
      await answer(() => api.entry.forgot.$post({ json: { email: given.email.trim() } }))
    ).mailed
  })
</script>

<template>
  <EntryPage title="A new password">
    <template v-if="mailed === true">
      <p role="status">
        If <b>{{ given.email }}</b> has an account here, a letter is on its way. The address in it can be used
        once, within an hour.
      </p>
    </template>
    <p v-else-if="mailed === false" role="status">
      This server sends no mail. Ask a coordinator of your workspace to remove you and to invite you again.
    </p>
    <Form v-else layout="vertical" :model="given" :required-mark="false" @finish="send">
      <FormItem
        label="Mail address"
        name="email"
        :rules="[{ required: true, message: 'Type your mail address.' }]"
      >
        <Input v-model:value="given.email" autofocus type="email" autocomplete="username" size="large" />
      </FormItem>
      <p v-if="reason" class="why" role="alert">{{ reason }}</p>
      <Button type="primary" html-type="submit" size="large" block :loading="busy">Send me a letter</Button>
    </Form>
    <p class="back"><RouterLink to="/sign-in">Back to sign in</RouterLink></p>
  </EntryPage>
</template>

<style scoped>
.why {
  color: var(--clay);
}
.back {
  margin-top: 16px;
  text-align: center;
}
</style>
