<script setup lang="ts">
import AddPasskey from '../sign-in/AddPasskey.vue'
import { useQuery, useQueryCache } from '@pinia/colada'
import { Button } from 'ant-design-vue'
import { computed } from 'vue'
import { answer, api } from '../../api/client.ts'
import { agoWords } from '../../stores/connections.ts'
import { say } from '../../stores/messages.ts'
import { useAttempt } from '../../ui/attempt.ts'

/** One's passkeys: made on this device, named, removed. */
const cache = useQueryCache()
const query = useQuery({ key: ['account'], query: () => answer(() => api.account.$get()), staleTime: 0 })
const passkeys = computed(() => query.data.value?.passkeys ?? [])
const { busy, reason, attempt } = useAttempt()

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
    <AddPasskey v-if="query.data.value?.byName" @done="cache.invalidateQueries({ key: ['account'] })" />
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
.why {
  color: var(--clay);
}
</style>
