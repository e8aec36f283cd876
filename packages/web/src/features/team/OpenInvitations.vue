<script setup lang="ts">
import { ROLE_WORDS } from '@loom/core/view'
import { Button, Input } from 'ant-design-vue'
import { ref, watch } from 'vue'
import { answer, api } from '../../api/client.ts'
import { useAttempt } from '../../ui/attempt.ts'
import type { Invitation } from './team.ts'

/** Invitations that nobody has accepted yet, and the address of the one made last. */
interface Made {
  id: string
  email: string
  link: string
  mailed: boolean
}
const props = defineProps<{ invitations: readonly Invitation[]; made: Made | null }>()
const emit = defineEmits<{ made: [Made | null] }>()
const { busy, reason, attempt } = useAttempt()
const copied = ref(false)
watch(
  () => props.made,
  () => (copied.value = false),
)
const DAY_MS = 86_400_000
const daysLeft = (i: Invitation): number => Math.max(1, Math.ceil((i.expiresAt - Date.now()) / DAY_MS))

async function copy(): Promise<void> {
  if (!props.made) return
  await navigator.clipboard.writeText(props.made.link)
  copied.value = true
}
const renew = (i: Invitation) =>
  attempt(async () => {
    const fresh = await answer(() => api.team.invitations[':id'].renew.$post({ param: { id: i.id } }))
    emit('made', { email: i.email, ...fresh })
  })
const withdraw = (i: Invitation) =>
  attempt(async () => {
    await answer(() => api.team.invitations[':id'].$delete({ param: { id: i.id } }))
    if (props.made?.email === i.email) emit('made', null)
  })
</script>

<template>
  <div v-if="made" class="made" role="status">
    <p>
      {{
        made.mailed
          ? `A letter to ${made.email} is on its way. The same address, if it is needed:`
          : `No mail was sent. Give ${made.email} this address yourself:`
      }}
    </p>
    <div class="line">
      <Input :value="made.link" readonly aria-label="Address of the invitation" />
      <Button @click="copy">{{ copied ? 'Copied' : 'Copy' }}</Button>
    </div>
    <p class="quiet">It can be used once, within seven days. It is shown only now.</p>
  </div>
  <p v-if="reason" class="why" role="alert">{{ reason }}</p>
  <ul v-if="invitations.length > 0" aria-label="Open invitations">
    <li v-for="i in invitations" :key="i.id">
      <span class="who">{{ i.email }}</span>
      <span class="quiet"
        >{{ ROLE_WORDS[i.role].name }}, {{ daysLeft(i) }} {{ daysLeft(i) === 1 ? 'day' : 'days' }} left</span
      >
      <Button size="small" :disabled="busy" @click="renew(i)">Send again</Button>
      <Button size="small" :disabled="busy" @click="withdraw(i)">Withdraw</Button>
    </li>
  </ul>
  <p v-else-if="!made" class="quiet none">No invitation is open.</p>
</template>

<style scoped>
.made {
  margin-top: 14px;
  padding: 10px 12px;
  background: var(--linen);
  border-left: 4px solid var(--amber);
}
.made p {
  margin: 0 0 6px;
}
.line {
  display: flex;
  gap: 8px;
  margin-bottom: 6px;
}
ul {
  list-style: none;
  margin: 14px 0 0;
  padding: 0;
}
li {
  display: flex;
  align-items: center;
  flex-wrap: wrap;
  gap: 4px 10px;
  padding: 5px 0;
  border-top: 1px solid var(--warp);
}
.who {
  flex: 1;
  min-width: 160px;
  overflow-wrap: anywhere;
}
.none {
  margin: 12px 0 0;
}
.why {
  color: var(--clay);
}
</style>
