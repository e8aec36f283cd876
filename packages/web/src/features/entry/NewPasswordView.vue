<script setup lang="ts">
import { Button, Form, FormItem, InputPassword } from 'ant-design-vue'
import { reactive } from 'vue'
import { answer, api } from '../../api/client.ts'
import { useAttempt } from '../../ui/attempt.ts'
import EntryPage from './EntryPage.vue'
import { useEntryLink } from './use-entry-link.ts'

/** Chooses a new password, by the address that came in the mail. */
const { token, link, error, enter } = useEntryLink()
const { busy, reason, attempt } = useAttempt()
const given = reactive({ password: '' })
async function save(): Promise<void> {
  let isMember = false
  const done = await attempt(async () => {
    const { password } = given
    isMember = (await answer(() => api.entry['new-password'].$post({ json: { token, password } }))).isMember
  })
  if (done) await enter(isMember ? '/cloth' : '/sign-in')
}
</script>

<template>
  <EntryPage :title="error ? 'This address is over' : 'A new password'">
    <template v-if="error">
      <p role="alert">{{ error }}</p>
      <p><RouterLink to="/forgot">Send another letter</RouterLink></p>
    </template>
    <Form
      v-else-if="link?.purpose === 'reset'"
      layout="vertical"
      :model="given"
      :required-mark="false"
      @finish="save"
    >
      <FormItem
        label="New password, at least 10 characters"
        name="password"
        :rules="[{ required: true, message: 'Choose a password.' }]"
      >
        <InputPassword v-model:value="given.password" autofocus autocomplete="new-password" size="large" />
      </FormItem>
      <p class="quiet">Wherever you are signed in with the old one, you are signed out.</p>
      <p v-if="reason" class="why" role="alert">{{ reason }}</p>
      <Button type="primary" html-type="submit" size="large" block :loading="busy">Save and sign in</Button>
    </Form>
  </EntryPage>
</template>

<style scoped>
.why {
  color: var(--clay);
}
</style>
