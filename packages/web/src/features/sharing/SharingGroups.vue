<script setup lang="ts">
import { Button, Input } from 'ant-design-vue'
import { ref } from 'vue'
import { answer, api } from '../../api/client.ts'
import { useAttempt } from '../../ui/attempt.ts'
import ChooseSome from '../../ui/ChooseSome.vue'
import type { Told } from './sharing.ts'

/** Named sets of members, to share with at once. Coordinators make them; whoever shares may use them. */
const props = defineProps<{ told: Told }>()
const { busy, reason, attempt } = useAttempt()
const adding = ref('')

const put = (id: string, name: string, members: string[]): Promise<boolean> =>
  attempt(() => answer(() => api.sharing.groups[':id'].$put({ param: { id }, json: { name, members } })))
const drop = (id: string): Promise<boolean> =>
  attempt(() => answer(() => api.sharing.groups[':id'].$delete({ param: { id } })))
async function add(): Promise<void> {
  if (await put('new', adding.value, [])) adding.value = ''
}
const namesIn = (members: readonly string[]): string =>
  props.told.people.flatMap(p => (members.includes(p.id) ? [p.name.split(' ')[0]] : [])).join(', ') ||
  'nobody yet'
const people = (): { value: string; label: string }[] =>
  props.told.people.map(p => ({ value: p.id, label: p.name }))
</script>

<template>
  <section class="sheet part">
    <h2>Groups</h2>
    <ul>
      <li v-for="g in told.groups" :key="g.id">
        <b>{{ g.name }}</b>
        <span v-if="!told.mayGroup">{{ namesIn(g.members) }}</span>
        <ChooseSome
          v-else
          :model-value="g.members"
          :label="namesIn(g.members)"
          :name="`Who is in ${g.name}`"
          :options="people()"
          @update:model-value="members => put(g.id, g.name, members)"
        />
        <Button v-if="told.mayGroup" size="small" @click="drop(g.id)">Dissolve</Button>
      </li>
    </ul>
    <p v-if="told.groups.length === 0" class="quiet">None yet.</p>
    <form v-if="told.mayGroup" class="add" @submit.prevent="add">
      <Input
        v-model:value="adding"
        :maxlength="100"
        placeholder="Night crew"
        aria-label="Name of a new group"
      />
      <Button html-type="submit" :loading="busy" :disabled="adding.trim() === ''">Make group</Button>
    </form>
    <p v-if="reason" class="why" role="alert">{{ reason }}</p>
  </section>
</template>

<style scoped>
.part {
  padding: 14px 16px;
}
h2 {
  margin: 0 0 8px;
}
ul {
  display: grid;
  gap: 8px;
  margin: 0 0 10px;
  padding: 0;
  list-style: none;
}
li {
  display: grid;
  grid-template-columns: minmax(80px, max-content) 1fr auto;
  gap: 8px;
  align-items: center;
}
.add {
  display: flex;
  gap: 8px;
  max-width: 360px;
}
.why {
  color: var(--clay);
}
</style>
