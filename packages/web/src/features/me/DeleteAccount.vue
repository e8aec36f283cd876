<script setup lang="ts">
import { useQuery } from '@pinia/colada'
import { Button, InputPassword, Modal } from 'ant-design-vue'
import { computed, ref } from 'vue'
import { answer, api } from '../../api/client.ts'
import { useAttempt } from '../../ui/attempt.ts'

/** Says what goes with one's account and what stays, and asks for the password before it does. */
const emit = defineEmits<{ close: [] }>()
const query = useQuery({
  key: ['account', 'deletion'],
  query: () => answer(() => api.account.deletion.$get()),
  staleTime: 0,
})
const plan = computed(() => query.data.value)
const password = ref('')
const { busy, reason, attempt } = useAttempt()
const items = (n: number): string => `${n} ${n === 1 ? 'item' : 'items'}`
async function go(): Promise<void> {
  const json = { password: password.value }
  if (await attempt(() => answer(() => api.account.delete.$post({ json }))))
    window.location.assign('/sign-in')
}
</script>

<template>
  <Modal open title="Delete your account?" :footer="null" :width="520" @cancel="emit('close')">
    <template v-if="plan && plan.stuck.length > 0">
      <p>
        Nobody else could look after <b>{{ plan.stuck.join(', ') }}</b>. Make somebody a coordinator there
        first, or delete that workspace.
      </p>
      <div class="foot"><Button @click="emit('close')">Close</Button></div>
    </template>
    <form v-else-if="plan" @submit.prevent="go">
      <div class="both">
        <section>
          <h3>Goes</h3>
          <ul>
            <li>your name and mail address, your settings, passkeys and sessions</li>
            <li>{{ items(plan.intake) }} in your intake</li>
            <li v-for="w in plan.alone" :key="w.id">
              the workspace {{ w.name }}, where you are alone, with {{ items(w.items) }}
            </li>
          </ul>
        </section>
        <section>
          <h3>Stays</h3>
          <ul>
            <li>everything at the services themselves</li>
            <li v-if="plan.left.length > 0">
              what you connected in {{ plan.left.join(', ') }}, hidden for 30 days; to leave it to the team,
              say under Connections that it belongs to the team first
            </li>
            <li>the journal, in which you are a former member</li>
          </ul>
        </section>
      </div>
      <label
        >There is no way back. Your password:
        <InputPassword v-model:value="password" autocomplete="current-password" aria-label="Your password"
      /></label>
      <p v-if="reason" class="why" role="alert">{{ reason }}</p>
      <div class="foot">
        <Button @click="emit('close')">Cancel</Button>
        <Button danger type="primary" html-type="submit" :disabled="password === ''" :loading="busy"
          >Delete my account</Button
        >
      </div>
    </form>
  </Modal>
</template>

<style scoped>
.both {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 18px;
}
ul {
  padding-left: 18px;
  margin: 6px 0 16px;
}
label {
  display: grid;
  gap: 6px;
}
.foot {
  display: flex;
  justify-content: flex-end;
  gap: 8px;
  margin-top: 14px;
}
.why {
  color: var(--clay);
  margin: 8px 0 0;
}
</style>
