<script setup lang="ts">
import { Button, Form, FormItem, Input } from 'ant-design-vue'
import { computed, reactive } from 'vue'
import { answer, api } from '../../api/client.ts'
import { useMessages } from '../../stores/messages.ts'
import { useSession } from '../../stores/session.ts'
import { useAttempt } from '../../ui/attempt.ts'
import ChooseOne from '../../ui/ChooseOne.vue'
import { zoneChoices } from '../../ui/zones.ts'

/** A further workspace of the same person, who is its first coordinator. */
const session = useSession()
const { busy, reason, attempt } = useAttempt()
const given = reactive({ name: '', zone: session.person?.zone ?? 'UTC' })
const zones = computed(() => zoneChoices(given.zone, session.now()))
async function make(): Promise<void> {
  if (!(await attempt(() => answer(() => api.account.workspaces.$post({ json: { ...given } }))))) return
  useMessages().forgetUndo()
  window.location.assign('/connections/new')
}
</script>

<template>
  <main class="page">
    <div class="page-head"><h1>New workspace</h1></div>
    <Form layout="vertical" :model="given" :required-mark="false" class="sheet form" @finish="make">
      <p>
        It has its own people, connections and rules. Nothing of this one is seen there. You change between
        them in the account menu.
      </p>
      <FormItem label="Name" name="name" :rules="[{ required: true, message: 'Give it a name.' }]">
        <Input v-model:value="given.name" autofocus :maxlength="200" />
      </FormItem>
      <FormItem label="Time zone of its rules">
        <ChooseOne v-model="given.zone" name="Time zone" searchable :options="zones" />
      </FormItem>
      <p v-if="reason" class="why" role="alert">{{ reason }}</p>
      <Button type="primary" html-type="submit" :loading="busy">Create</Button>
    </Form>
  </main>
</template>

<style scoped>
.form {
  padding: 18px 20px;
  max-width: 560px;
}
.why {
  color: var(--clay);
}
</style>
