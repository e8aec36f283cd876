<script setup lang="ts">
import { type Level, LEVEL_WORDS, reaches } from '@loom/core/view'
import { useQuery } from '@pinia/colada'
import { Button } from 'ant-design-vue'
import { computed, ref } from 'vue'
import { useRoute } from 'vue-router'
import { answer, api } from '../../api/client.ts'
import { say } from '../../stores/messages.ts'
import { useSession } from '../../stores/session.ts'
import SentenceChoice from '../../ui/SentenceChoice.vue'
import { useAttempt } from '../../ui/attempt.ts'
import { LEVEL_CHOICES } from '../../ui/level-choices.ts'
import { named } from '../team/asks.ts'
import AskToSee from '../team/AskToSee.vue'
import LevelSwatch from './LevelSwatch.vue'
import FeedDialog from './FeedDialog.vue'
import { becauseWords } from './sharing.ts'

/** One list or calendar: whose it is, who sees it, and why. */
const route = useRoute()
const session = useSession()
const id = computed(() => String(route.params.id))
const query = useQuery({
  key: () => ['team', 'list', id.value],
  query: () => answer(() => api.sharing.lists[':id'].$get({ param: { id: id.value } })),
})
const list = computed(() => query.data.value)
const isFeeding = ref(false)
const team = useQuery({ key: ['team', 'sharing'], query: () => answer(() => api.sharing.$get()) })
const told = computed(() => team.data.value)
const nameOf = (person: string): string => told.value?.people.find(p => p.id === person)?.name ?? ''
/** Whoever sees more comes first. */
const RANKS = Object.keys(LEVEL_WORDS)
const rows = computed(() =>
  [...(list.value?.reached ?? [])].sort(
    (a, b) =>
      RANKS.indexOf(b.level) - RANKS.indexOf(a.level) || nameOf(a.person).localeCompare(nameOf(b.person)),
  ),
)
const holds = computed(() => {
  const { items = 0, itemKind = 'task' } = list.value ?? {}
  return `${items} ${itemKind}${items === 1 ? '' : 's'}`
})
const asking = ref(false)

/** Where rules show more of it, and how much of that was agreed to. */
const carried = computed(() => list.value?.carriedOn ?? [])
type Carried = NonNullable<typeof list.value>['carriedOn'][number]
const carriedWords = ({ place, level, who }: Carried): string => {
  const where = place === null ? 'In a calendar or list that you do not see' : `In ${place}`
  return level === 'nothing'
    ? `${where} it is shown to nobody who does not see it here.`
    : `${where}, ${named(who)} ${who.length === 1 ? 'sees' : 'see'} ${LEVEL_WORDS[level].name} of it.`
}
const besides = ({ agreed, level, isOn }: Carried): string =>
  [
    agreed !== null && !reaches(agreed, level) ? 'More than that is shown there already.' : '',
    isOn ? '' : 'The rule is paused.',
  ]
    .filter(Boolean)
    .join(' ')
const LIMITS = LEVEL_CHOICES.filter(c => c.value !== 'change')
const { reason, attempt } = useAttempt()
async function limit(target: string, level: Level): Promise<void> {
  if (level === 'change') return
  const isDone = await attempt(async () => {
    const { stopped } = await answer(() =>
      api.sharing.lists[':id'].carried[':target'].$put({ param: { id: id.value, target }, json: { level } }),
    )
    const words = `Rules show ${LEVEL_WORDS[level].name} of ${list.value?.name ?? 'it'} there from now on.`
    say({ text: stopped ? `${words} What showed more is paused.` : words })
  })
  if (!isDone) say({ text: reason.value, tone: 'wrong' })
  await query.refetch()
}
</script>

<template>
  <main class="page">
    <p v-if="query.error.value" role="alert">{{ query.error.value.message }}</p>
    <template v-if="list && told">
      <div class="page-head">
        <h1><span class="dye" :style="{ background: list.dye }" aria-hidden="true" /> {{ list.name }}</h1>
        <span class="quiet"
          >{{ list.service }} · {{ holds }} ·
          {{ list.owner ? `belongs to ${list.owner}` : 'the team’s, looked after by coordinators' }}</span
        >
      </div>
      <section class="sheet part">
        <p v-if="list.mine" class="mine">
          <LevelSwatch :level="list.mine.level" :dye="list.dye" />
          <span
            >You: <b>{{ LEVEL_WORDS[list.mine.level].name }}</b>,
            {{ list.mine.because.kind === 'owner' ? 'it is yours' : becauseWords(told, list.mine.because) }}.
            <span class="quiet">({{ LEVEL_WORDS[list.mine.level].shows }})</span></span
          >
          <Button v-if="list.mine.level !== 'change' && session.mayAsk" size="small" @click="asking = true"
            >Ask to see more</Button
          >
        </p>
        <p v-if="list.asBefore" class="quiet">
          Nobody has chosen yet who sees this: it is as it was before there were levels, private things
          included.
        </p>
      </section>
      <section v-if="list.reached" class="sheet part">
        <h2>Who sees it</h2>
        <table aria-label="Who sees it">
          <thead class="visually-hidden">
            <tr>
              <th scope="col">Who</th>
              <th scope="col">What</th>
              <th scope="col">Why</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="r in rows" :key="r.person">
              <th scope="row">{{ nameOf(r.person) }}</th>
              <td>
                <span class="level"
                  ><LevelSwatch :level="r.level" :dye="list.dye" /> {{ LEVEL_WORDS[r.level].name }}</span
                >
              </td>
              <td class="quiet">{{ becauseWords(told, r.because) }}</td>
            </tr>
            <tr v-for="l in list.links ?? []" :key="l.id">
              <th scope="row">{{ l.name }} <span class="quiet">guest</span></th>
              <td>
                <span class="level"
                  ><LevelSwatch :level="l.level" :dye="list.dye" /> {{ LEVEL_WORDS[l.level].name }}</span
                >
              </td>
              <td class="quiet">
                by a secret address, {{ l.weeks }} {{ l.weeks === 1 ? 'week' : 'weeks' }} ahead
              </td>
            </tr>
          </tbody>
        </table>
        <p>
          <RouterLink to="/team/sharing">Change who sees what</RouterLink>
          <template v-if="!session.onlyLooks">
            ·
            <button type="button" class="plain link" @click="isFeeding = true">For calendar programs…</button>
          </template>
          <span class="quiet">
            · whoever a task is given to sees it anyway; what is private is only busy to others</span
          >
        </p>
      </section>
      <FeedDialog v-if="isFeeding" :list="id" @close="isFeeding = false" />
      <section v-if="carried.length > 0" class="sheet part" aria-label="Carried on by rules">
        <h2>Carried on by rules</h2>
        <p v-for="c in carried" :key="c.target" class="sentence">
          {{ carriedWords(c) }}
          {{ c.agreed === null ? 'You limit it to' : 'You agreed to' }}
          <SentenceChoice
            :model-value="c.agreed ?? c.level"
            name="Up to how much"
            :options="LIMITS"
            @update:model-value="level => limit(c.target, level)"
          />.
          <span class="quiet">{{ besides(c) }}</span>
        </p>
        <p class="quiet">
          Less than what is shown stops the rule; nothing that stands there already is removed.
        </p>
      </section>
      <AskToSee
        v-if="asking"
        :of="{ list: list.id, name: list.name }"
        :level="list.mine?.level === 'title' ? 'everything' : 'change'"
        @close="asking = false"
      />
    </template>
  </main>
</template>

<style scoped>
h1 {
  display: flex;
  align-items: center;
  gap: 10px;
}
.dye {
  width: 12px;
  height: 18px;
  border-radius: 2px;
}
.part {
  padding: 14px 16px;
  margin-bottom: 12px;
}
.part > :last-child {
  margin-bottom: 0;
}
h2,
p {
  margin: 0 0 10px;
}
.mine {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 12px;
}
.mine > :last-child {
  margin-left: auto;
}
.mine > span:last-child {
  margin-left: 0;
}
table {
  width: min(820px, 100%);
  border-collapse: collapse;
  margin-bottom: 12px;
}
th,
td {
  padding: 7px 12px 7px 0;
  border-top: 1px solid var(--warp);
  text-align: left;
  font-weight: 400;
}
tbody th {
  width: 240px;
  font-weight: 600;
}
.level {
  display: flex;
  align-items: center;
  gap: 10px;
}
</style>
