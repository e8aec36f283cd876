<script setup lang="ts">
import { Button, Form, FormItem, Input, InputPassword, Modal, RadioButton, RadioGroup } from 'ant-design-vue'
import { computed, reactive, ref } from 'vue'
import { answer, api, Refused } from '../../api/client.ts'
import { say } from '../../app/messages.ts'
import ChooseCollections from './ChooseCollections.vue'
import type { Connection } from './use-connections.ts'

/** Connects a service, or signs in again to one that is known. */
const props = defineProps<{ again?: Connection }>()
const emit = defineEmits<{ close: [] }>()

type Kind = 'caldav' | 'bench-list'
const kindOf = (text: string): Kind => (text === 'bench-list' ? 'bench-list' : 'caldav')

const given = reactive({
  kind: kindOf(props.again?.kind ?? 'caldav'),
  address: props.again?.address ?? '',
  user: '',
  password: '',
  key: '',
})
const input = computed(() =>
  given.kind === 'caldav'
    ? {
        kind: 'caldav' as const,
        address: given.address,
        credentials: { user: given.user, password: given.password },
      }
    : { kind: 'bench-list' as const, address: given.address, credentials: { key: given.key } },
)
const ask = () => answer(() => api.connections.try.$post({ json: input.value }))
type Account = Awaited<ReturnType<typeof ask>>

const found = ref<Account | null>(null)
const reason = ref('')
const busy = ref(false)

const complete = computed(
  () =>
    given.address.trim() !== '' &&
    (given.kind === 'caldav' ? given.user && given.password : given.key) !== '',
)

async function attempt(work: () => Promise<void>): Promise<void> {
  busy.value = true
  reason.value = ''
  try {
    await work()
  } catch (error) {
    if (!(error instanceof Refused)) throw error
    reason.value = error.message
  } finally {
    busy.value = false
  }
}

const test = (): Promise<void> =>
  attempt(async () => {
    const { again } = props
    if (again) {
      const request = { param: { id: again.id }, json: input.value }
      await answer(() => api.connections[':id'].credentials.$put(request))
      say({ text: `${again.name}: signed in again.` })
      emit('close')
      return
    }
    found.value = await ask()
  })

const keep = (name: string, takesPart: string[]): Promise<void> =>
  attempt(async () => {
    await answer(() => api.connections.$post({ json: { input: input.value, name, takesPart } }))
    say({ text: `${name} is connected.` })
    emit('close')
  })

const who = computed(() => given.user)
const suggestion = computed(() =>
  given.kind === 'caldav' ? new URL(urlOf(given.address)).host : 'Bench List',
)

const urlOf = (typed: string): string =>
  /^[a-z]+:\/\//i.test(typed.trim()) ? typed.trim() : `https://${typed.trim()}`
</script>

<template>
  <Modal
    open
    :title="again ? `Sign in again to ${again.name}` : 'Connect a service'"
    :footer="null"
    :width="520"
    @cancel="emit('close')"
  >
    <Form v-if="!found" layout="vertical" :model="given" :required-mark="false" @finish="test">
      <FormItem v-if="!again" label="What is it?">
        <RadioGroup v-model:value="given.kind">
          <RadioButton value="caldav">Calendars (CalDAV)</RadioButton>
          <RadioButton value="bench-list">Tasks (Bench List)</RadioButton>
        </RadioGroup>
      </FormItem>
      <FormItem
        label="Address"
        :extra="
          given.kind === 'caldav' ? 'The server’s name is enough, if it follows the standard.' : undefined
        "
      >
        <Input
          v-model:value="given.address"
          aria-label="Address"
          :placeholder="given.kind === 'caldav' ? 'calendars.example.org' : 'https://tasks.example.org/bench'"
        />
      </FormItem>
      <div v-if="given.kind === 'caldav'" class="pair">
        <FormItem label="User name"
          ><Input v-model:value="given.user" aria-label="User name" autocomplete="off"
        /></FormItem>
        <FormItem label="Password">
          <InputPassword v-model:value="given.password" aria-label="Password" autocomplete="new-password" />
        </FormItem>
      </div>
      <FormItem v-else label="Access key" extra="You find it in the service’s own settings.">
        <InputPassword v-model:value="given.key" aria-label="Access key" autocomplete="off" />
      </FormItem>
      <p v-if="reason" class="reason" role="alert">{{ reason }} Nothing was kept.</p>
      <div class="foot">
        <Button @click="emit('close')">Leave it</Button>
        <Button type="primary" html-type="submit" :loading="busy" :disabled="!complete">{{
          again ? 'Sign in' : 'Look what is there'
        }}</Button>
      </div>
    </Form>

    <ChooseCollections
      v-if="found"
      :account="found"
      :who="who"
      :suggestion="suggestion"
      :busy="busy"
      :reason="reason"
      @back="found = null"
      @keep="keep"
    />
  </Modal>
</template>

<style scoped>
.pair {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 12px;
}
.foot {
  display: flex;
  justify-content: flex-end;
  gap: 8px;
}
.reason {
  color: var(--clay);
}
</style>
