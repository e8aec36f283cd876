<script setup lang="ts">
import { dayWords, instantDayWords, type Level, LEVEL_WORDS } from '@loom/core/view'
import { useQuery } from '@pinia/colada'
import { computed } from 'vue'
import { answer, api } from '../../api/client.ts'
import { useSession } from '../../stores/session.ts'
import { clockWords } from '../../ui/telling.ts'
import TeamTabs from '../team/TeamTabs.vue'
import type { Log, Told } from './sharing.ts'

/** Who shared what with whom, and looked as whom, newest first. */
const session = useSession()
const query = useQuery({
  key: ['team', 'sharing-log'],
  query: () => answer(() => api.sharing.log.$get({ query: {} })),
})
const sharing = useQuery({ key: ['team', 'sharing'], query: () => answer(() => api.sharing.$get()) })
const zone = computed(() => session.person?.zone ?? 'UTC')
const lines = computed(() => query.data.value?.lines ?? [])

function whomOf(told: Told | undefined, to: string): string {
  const [kind, id] = to.split(' ')
  if (kind === 'everybody') return 'everybody'
  const names = kind === 'group' ? told?.groups : told?.people
  return (
    names?.find(n => n.id === id)?.name ??
    (kind === 'group' ? 'a group that is gone' : 'somebody who has left')
  )
}
const seen = (level: Level | null): string =>
  level === null ? 'no word of their own' : LEVEL_WORDS[level].name
function wordsOf({ body, list }: Log): string {
  if (body.do === 'see-as') return `looked at the Cloth as ${body.whom} sees it`
  if (body.do === 'link')
    return body.isEnded
      ? `ended the address for ${body.name}`
      : `made an address for ${body.name}, who sees ${LEVEL_WORDS[body.level].name}`
  if (body.do === 'deputy')
    return body.whom === null
      ? 'needs no deputy any more'
      : `named ${body.whom} as deputy from ${dayWords(body.from)} to ${dayWords(body.to)}`
  if (body.do === 'group')
    return body.members === null
      ? `dissolved the group ${body.name}`
      : `put ${body.members} ${body.members === 1 ? 'person' : 'people'} in the group ${body.name}`
  return `shared ${list ?? ''} with ${whomOf(sharing.data.value, body.to)}: ${seen(body.level)}, before ${seen(body.before)}`
}
</script>

<template>
  <main class="page">
    <div class="page-head">
      <h1>Team</h1>
      <span class="quiet">What was shared, of what you own or look after.</span>
    </div>
    <TeamTabs />
    <p v-if="query.error.value" role="alert">{{ query.error.value.message }}</p>
    <ol class="sheet lines">
      <li v-for="l in lines" :key="l.id">
        <span class="quiet">{{ instantDayWords(l.at, zone) }} {{ clockWords(l.at, zone) }}</span>
        <span
          ><b>{{ l.who }}</b> {{ wordsOf(l) }}</span
        >
      </li>
      <li v-if="lines.length === 0" class="quiet">Nobody has changed anything about sharing yet.</li>
    </ol>
  </main>
</template>

<style scoped>
.lines {
  margin: 0;
  padding: 4px 0;
  list-style: none;
}
li {
  display: grid;
  grid-template-columns: 150px 1fr;
  gap: 12px;
  padding: 7px 14px;
}
li + li {
  border-top: 1px solid var(--warp);
}
</style>
