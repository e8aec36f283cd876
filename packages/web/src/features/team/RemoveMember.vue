<script setup lang="ts">
import { useQueryCache } from '@pinia/colada'
import { Button, Modal, Radio, RadioGroup } from 'ant-design-vue'
import { ref } from 'vue'
import { useRouter } from 'vue-router'
import { answer, api } from '../../api/client.ts'
import { say } from '../../stores/messages.ts'
import { useSession } from '../../stores/session.ts'
import { useAttempt } from '../../ui/attempt.ts'
import type { Teammate } from './team.ts'

/** Says what goes and what stays when somebody leaves, and asks about what they had connected. */
const props = defineProps<{ member: Teammate; isMe: boolean }>()
const emit = defineEmits<{ close: [] }>()
const router = useRouter()
const session = useSession()
const cache = useQueryCache()
const connections = ref<'hand-over' | 'pause'>('hand-over')
const { busy, reason, attempt } = useAttempt()

async function go(): Promise<void> {
  const { id, name } = props.member
  const json = { connections: connections.value }
  const done = await attempt(() =>
    props.isMe
      ? answer(() => api.team.leave.$post({ json }))
      : answer(() => api.team.members[':id'].remove.$post({ param: { id } })),
  )
  if (!done) return
  emit('close')
  if (props.isMe) {
    session.person = null
    await router.push({ name: 'sign-in' })
    return
  }
  say({ text: `${name} is no longer in this workspace.` })
  await cache.invalidateQueries({ key: ['team'] })
}
</script>

<template>
  <Modal
    open
    :title="isMe ? 'Leave this workspace?' : `Remove ${member.name}?`"
    :footer="null"
    :width="520"
    @cancel="emit('close')"
  >
    <ul>
      <li>
        {{ isMe ? 'You are' : `${member.name} is` }} signed out at once, and the addresses for
        {{ isMe ? 'your' : 'their' }} intake are closed.
      </li>
      <li>Tasks and events stay, and the journal still says who did what.</li>
      <li>Invited again, {{ isMe ? 'you' : 'they' }} would find {{ isMe ? 'your' : 'their' }} settings.</li>
    </ul>
    <template v-if="member.connections.length > 0">
      <p>
        {{ isMe ? 'You have' : `${member.name} has` }} connected <b>{{ member.connections.join(', ') }}</b>:
      </p>
      <RadioGroup
        v-if="isMe"
        v-model:value="connections"
        class="choices"
        aria-label="What becomes of these connections"
      >
        <Radio value="hand-over">the team takes them over, and sync goes on</Radio>
        <Radio value="pause"
          >they pause, and what came by them is hidden; in 30 days it is gone from here</Radio
        >
      </RadioGroup>
      <p v-else>
        They pause, and what came by them is hidden. Nothing is deleted at the services; in 30 days it is gone
        from here. The team goes on with what it needs by a sign-in of its own.
      </p>
    </template>
    <p v-if="reason" class="why" role="alert">{{ reason }}</p>
    <div class="foot">
      <Button @click="emit('close')">Cancel</Button>
      <Button danger type="primary" :loading="busy" @click="go">{{ isMe ? 'Leave' : 'Remove' }}</Button>
    </div>
  </Modal>
</template>

<style scoped>
ul {
  padding-left: 18px;
  margin: 6px 0 14px;
}
.choices {
  display: grid;
  gap: 4px;
  margin-bottom: 14px;
}
.foot {
  display: flex;
  justify-content: flex-end;
  gap: 8px;
}
.why {
  color: var(--clay);
}
</style>
