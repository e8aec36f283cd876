<script setup lang="ts">
import { PhCheck, PhPlus, PhUsersThree } from '@phosphor-icons/vue'
import { useQuery } from '@pinia/colada'
import { answer, api } from '../../api/client.ts'
import { useMessages } from '../../stores/messages.ts'

/** In the account menu: the team of this workspace, and the other workspaces one is in. */
const emit = defineEmits<{ close: [] }>()
const query = useQuery({ key: ['account'], query: () => answer(() => api.account.$get()), staleTime: 60_000 })

/** The page begins anew: nothing of the one workspace stays on it. */
async function goTo(id: string): Promise<void> {
  await answer(() => api.account.workspace.$put({ json: { id } }))
  useMessages().forgetUndo()
  window.location.assign('/cloth')
}
</script>

<template>
  <RouterLink to="/team" class="entry" @click="emit('close')"><PhUsersThree :size="16" /> Team</RouterLink>
  <div class="workspaces" role="group" aria-label="Workspaces">
    <template v-for="w in query.data.value?.workspaces ?? []" :key="w.id">
      <span v-if="w.here" class="entry here"><PhCheck :size="16" /> {{ w.name }}</span>
      <button v-else type="button" class="plain entry" @click="goTo(w.id)">
        <span class="room" /> {{ w.name }}
      </button>
    </template>
    <RouterLink to="/team/new" class="entry" @click="emit('close')"
      ><PhPlus :size="16" /> New workspace</RouterLink
    >
  </div>
</template>

<style scoped>
.entry {
  display: flex;
  align-items: center;
  gap: 8px;
  padding: 3px 0;
  color: var(--peat);
  text-decoration: none;
}
.entry:hover:not(.here) {
  text-decoration: underline;
}
.here {
  font-weight: 600;
}
.room {
  width: 16px;
}
.workspaces {
  display: grid;
  border-block: 1px solid var(--warp);
  margin: 4px 0;
  padding: 4px 0;
}
</style>
