<script setup lang="ts">
import { useQuery } from '@pinia/colada'
import { Button, Input, Modal } from 'ant-design-vue'
import { ref } from 'vue'
import { answer, api } from '../../api/client.ts'
import { useAttempt } from '../../ui/attempt.ts'

/** Says in counts what goes with a workspace, and asks for its name before it does. */
const props = defineProps<{ name: string }>()
const emit = defineEmits<{ close: [] }>()
const query = useQuery({
  key: ['team', 'deletion'],
  query: () => answer(() => api.team.deletion.$get()),
  staleTime: 0,
})
const typed = ref('')
const { busy, reason, attempt } = useAttempt()
const of = (n: number, one: string): string => `${n} ${one}${n === 1 ? '' : 's'}`
async function go(): Promise<void> {
  const json = { name: typed.value }
  if (await attempt(() => answer(() => api.team.delete.$post({ json })))) window.location.assign('/sign-in')
}
</script>

<template>
  <Modal open :title="`Delete ${props.name}?`" :footer="null" :width="520" @cancel="emit('close')">
    <div v-if="query.data.value" class="both">
      <section>
        <h3>Goes, for everybody</h3>
        <ul>
          <li>
            {{ of(query.data.value.connections, 'connection') }}, {{ of(query.data.value.rules, 'rule') }}
          </li>
          <li>{{ of(query.data.value.items, 'item') }} on the Cloth</li>
          <li v-if="query.data.value.kept > 0">
            of these, {{ of(query.data.value.kept, 'item') }} that
            {{ query.data.value.kept === 1 ? 'is' : 'are' }} kept only here
          </li>
          <li>views, categories, the journal</li>
          <li>
            {{
              query.data.value.members === 1
                ? 'your membership'
                : `the membership of ${query.data.value.members}`
            }}
          </li>
        </ul>
      </section>
      <section>
        <h3>Stays</h3>
        <ul>
          <li>everything at the services themselves</li>
          <li>people’s accounts, and their other workspaces</li>
        </ul>
      </section>
    </div>
    <form @submit.prevent="go">
      <label
        ><span
          >There is no way back. Type <b>{{ props.name }}</b> to delete it:</span
        >
        <Input v-model:value="typed" autocomplete="off" aria-label="Name of the workspace"
      /></label>
      <p v-if="reason" class="why" role="alert">{{ reason }}</p>
      <div class="foot">
        <Button @click="emit('close')">Cancel</Button>
        <Button
          danger
          type="primary"
          html-type="submit"
          :disabled="typed.trim() !== props.name"
          :loading="busy"
          >Delete the workspace</Button
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
