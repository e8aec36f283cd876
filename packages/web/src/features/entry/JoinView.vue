<script setup lang="ts">
import { ROLE_WORDS } from '@loom/core/view'
import { Button, Form, FormItem, Input, InputPassword } from 'ant-design-vue'
import { computed, reactive } from 'vue'
import { answer, api } from '../../api/client.ts'
import { useSession } from '../../stores/session.ts'
import { useAttempt } from '../../ui/attempt.ts'
import ChooseOne from '../../ui/ChooseOne.vue'
import { zoneChoices } from '../../ui/zones.ts'
import EntryPage from './EntryPage.vue'
import { useEntryLink } from './use-entry-link.ts'

/** Accepts an invitation: with the password one has here already, or with a new account. */
const { token, link, error, enter } = useEntryLink()
const session = useSession()
const { busy, reason, attempt } = useAttempt()
const given = reactive({
  name: '',
  password: '',
  zone: Intl.DateTimeFormat().resolvedOptions().timeZone,
})
const zones = computed(() => zoneChoices(given.zone, session.now()))
const isFor = computed(() => (link.value?.purpose === 'invite' ? link.value : null))
const title = computed(() =>
  error.value ? 'This invitation is over' : isFor.value ? `Join ${isFor.value.workspace}` : 'Invitation',
)
async function join(): Promise<void> {
  const { name, password, zone } = given
  const own = isFor.value?.known ? { token, password } : { token, name, password, zone }
  if (await attempt(() => answer(() => api.entry.join.$post({ json: own })))) await enter('/cloth')
}
</script>

<template>
  <EntryPage :title="title">
    <p v-if="error" role="alert">{{ error }}</p>
    <Form v-else-if="isFor" layout="vertical" :model="given" :required-mark="false" @finish="join">
      <p>
        {{ isFor.by ?? 'A coordinator' }} invites <b>{{ isFor.email }}</b>. You would be a
        {{ ROLE_WORDS[isFor.role ?? 'member'].name.toLowerCase() }}, who
        {{ ROLE_WORDS[isFor.role ?? 'member'].may }}.
      </p>
      <FormItem
        v-if="!isFor.known"
        label="Your name, as colleagues see it"
        name="name"
        :rules="[{ required: true, message: 'Say what you are called.' }]"
      >
        <Input v-model:value="given.name" autofocus autocomplete="name" size="large" :maxlength="200" />
      </FormItem>
      <FormItem
        :label="isFor.known ? 'Your password here' : 'Password, at least 10 characters'"
        name="password"
        :rules="[{ required: true, message: isFor.known ? 'Type your password.' : 'Choose a password.' }]"
      >
        <InputPassword
          v-model:value="given.password"
          :autofocus="isFor.known"
          :autocomplete="isFor.known ? 'current-password' : 'new-password'"
          size="large"
        />
      </FormItem>
      <FormItem v-if="!isFor.known" label="Time zone">
        <ChooseOne v-model="given.zone" name="Time zone" searchable :options="zones" />
      </FormItem>
      <p v-if="reason" class="why" role="alert">{{ reason }}</p>
      <Button type="primary" html-type="submit" size="large" block :loading="busy"
        >Join {{ isFor.workspace }}</Button
      >
      <p v-if="isFor.known" class="forgot"><RouterLink to="/forgot">Forgot your password?</RouterLink></p>
    </Form>
  </EntryPage>
</template>

<style scoped>
.why {
  color: var(--clay);
}
.forgot {
  margin-top: 16px;
  text-align: center;
}
</style>
