<script setup lang="ts">
import { browserSupportsWebAuthn, startRegistration } from '@simplewebauthn/browser'
import { useQuery, useQueryCache } from '@pinia/colada'
import { Button, Input } from 'ant-design-vue'
import { computed, ref } from 'vue'
import { answer, api } from '../../api/client.ts'
import { agoWords } from '../../stores/connections.ts'
import { say } from '../../stores/messages.ts'
import { useAttempt } from '../../ui/attempt.ts'
import { unlessCancelled } from '../../ui/passkey-words.ts'

/** One's passkeys: made on this device, named, removed. */
const cache = useQueryCache()
const query = useQuery({ key: ['account'], query: () => answer(() => api.account.$get()), staleTime: 0 })
const passkeys = computed(() => query.data.value?.passkeys ?? [])
const { busy, reason, attempt } = useAttempt()
const name = ref('')
const may = computed(() => browserSupportsWebAuthn() && query.data.value?.byName === true)

async function add(): Promise<void> {
  const called = name.value.trim() || 'Passkey'
  const done = await attempt(async () => {
    const optionsJSON = await answer(() => api.account.passkeys.options.$post())
    const response = await unlessCancelled(() => startRegistration({ optionsJSON }))
    await answer(() => api.account.passkeys.$post({ json: { name: called, response } }))
  })
  if (done) {
    name.value = ''
    say({ text: `${called} is kept. You can sign in with it from now on.` })
  }
  await cache.invalidateQueries({ key: ['account'] })
}
async function remove(id: string, called: string): Promise<void> {
  const done = await attempt(() => answer(() => api.account.passkeys[':id'].$delete({ param: { id } })))
  if (done) say({ text: `${called} opens nothing here any more.` })
  await cache.invalidateQueries({ key: ['account'] })
}
</script>

<template>
  <div>
    <h2>Passkeys</h2>
    <ul v-if="passkeys.length > 0">
      <li v-for="k in passkeys" :key="k.id">
        <span class="name">{{ k.name }}</span>
        <span class="quiet">{{
          k.usedAt === null ? 'not used yet' : `last used ${agoWords(k.usedAt, Date.now())}`
        }}</span>
        <Button size="small" :disabled="busy" @click="remove(k.id, k.name)">Remove</Button>
      </li>
    </ul>
    <p v-else class="quiet">None yet. With one you sign in by your fingerprint, face or device code.</p>
    <form v-if="may" class="line" @submit.prevent="add">
      <Input
        v-model:value="name"
        :maxlength="100"
        placeholder="What you call it: my laptop"
        aria-label="Name of the new passkey"
      />
      <Button html-type="submit" :loading="busy">Add a passkey</Button>
    </form>
    <p v-else class="quiet">
      Browsers keep passkeys only for pages that were opened by a name, such as
      <b>localhost</b>, not by a number.
    </p>
    <p v-if="reason" class="why" role="alert">{{ reason }}</p>
  </div>
</template>

<style scoped>
h2 {
  margin-bottom: 10px;
}
ul {
  list-style: none;
  margin: 0 0 12px;
  padding: 0;
}
li {
  display: flex;
  align-items: center;
  gap: 12px;
  min-height: 34px;
  border-bottom: 1px solid var(--warp);
}
.name {
  flex: 1;
}
.line {
  display: flex;
  gap: 8px;
  max-width: 420px;
}
.why {
  color: var(--clay);
}
</style>
