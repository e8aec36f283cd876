<script setup lang="ts">
import { type Role, ROLE_WORDS } from '@loom/core/view'
import { useQuery } from '@pinia/colada'
import { Button, Checkbox, Form, FormItem, Input } from 'ant-design-vue'
import { computed, reactive, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import { answer, api } from '../../api/client.ts'
import { say } from '../../stores/messages.ts'
import { useSession } from '../../stores/session.ts'
import { useAttempt } from '../../ui/attempt.ts'
import ChooseOne from '../../ui/ChooseOne.vue'
import { zoneChoices } from '../../ui/zones.ts'
import AskToSee from './AskToSee.vue'
import DeleteWorkspace from './DeleteWorkspace.vue'
import OpenInvitations from './OpenInvitations.vue'
import RemoveMember from './RemoveMember.vue'
import TeamTabs from './TeamTabs.vue'
import type { Teammate } from './team.ts'

/** Who is in the workspace: for coordinators to invite, give roles and remove; for everybody to see. */
const session = useSession()
const router = useRouter()
const query = useQuery({ key: ['team'], query: () => answer(() => api.team.$get()) })
const team = computed(() => query.data.value)
const { busy, reason, attempt } = useAttempt()
const roles = (Object.entries(ROLE_WORDS) as [Role, (typeof ROLE_WORDS)[Role]][]).map(([value, w]) => ({
  value,
  label: w.name,
}))
const given = reactive({ email: '', role: 'member' as Role })
/** The address of the invitation made last, to be copied. */
const made = ref<{ id: string; email: string; link: string; mailed: boolean } | null>(null)
const deleting = ref(false)
const leaving = ref<Teammate | null>(null)
const asking = ref<Teammate | null>(null)

async function invite(): Promise<void> {
  const { email, role } = given
  const done = await attempt(async () => {
    made.value = { email, ...(await answer(() => api.team.invitations.$post({ json: { email, role } }))) }
  })
  if (done) given.email = ''
}
async function setRole(m: Teammate, role: Role | null): Promise<void> {
  if (role === null || role === m.role) return
  const set = (to: Role) =>
    answer(() => api.team.members[':id'].role.$put({ param: { id: m.id }, json: { role: to } }))
  const before = m.role
  if (!(await attempt(() => set(role)))) {
    await query.refetch()
    return
  }
  say({
    text: `${m.name} is a ${ROLE_WORDS[role].name.toLowerCase()} now.`,
    undo: () => void attempt(() => set(before)),
  })
}

/** The Cloth as somebody else sees it, to look at. */
async function seeAs({ id, name }: Teammate): Promise<void> {
  await router.push('/cloth')
  session.seesAs = { id, name }
}

const place = reactive({ name: '', zone: '' })
watch(team, now => now?.workspace && Object.assign(place, now.workspace), { immediate: true })
/** Its address has been used, or is withdrawn. */
watch(team, now => {
  if (made.value && !now?.invitations.some(i => i.id === made.value?.id)) made.value = null
})
const zones = computed(() => zoneChoices(place.zone, session.now()))
const isChanged = computed(
  () => place.name !== team.value?.workspace?.name || place.zone !== team.value.workspace.zone,
)
const without = computed(() =>
  (team.value?.members ?? []).flatMap(m => (team.value?.without.includes(m.id) ? [m.name] : [])).join(', '),
)
async function wantSecond(): Promise<void> {
  const wants = team.value?.workspace?.wantsSecond !== true
  const put = (on: boolean) => answer(() => api.team.second.$put({ json: { wants: on } }))
  const done = await attempt(() => put(wants))
  await query.refetch()
  if (!done) return
  say({
    text: wants
      ? 'Whoever has neither is asked to set one up before anything else.'
      : 'A password alone is enough again.',
    undo: () => void attempt(() => put(!wants)).then(() => query.refetch()),
  })
}
const rename = async (): Promise<void> => {
  if (await attempt(() => answer(() => api.team.$put({ json: { ...place } })))) say({ text: 'Saved.' })
}
</script>

<template>
  <main class="page">
    <div class="page-head">
      <h1>Team</h1>
      <span v-if="team?.workspace" class="quiet"
        >{{ team.workspace.name }} · {{ team.members.length }}
        {{ team.members.length === 1 ? 'person' : 'people' }}</span
      >
    </div>
    <TeamTabs />
    <p v-if="query.error.value" role="alert">{{ query.error.value.message }}</p>
    <template v-if="team">
      <AskToSee
        v-if="asking"
        :of="{ person: asking.id, name: asking.name }"
        level="title"
        @close="asking = null"
      />
      <p v-if="reason" class="why" role="alert">{{ reason }}</p>
      <div class="sheet scroll">
        <table aria-label="People">
          <thead>
            <tr>
              <th scope="col">Name</th>
              <th scope="col">Role</th>
              <th scope="col">Time zone</th>
              <th scope="col">Connected by them</th>
              <td />
            </tr>
          </thead>
          <tbody>
            <tr v-for="m in team.members" :key="m.id">
              <td>
                <b>{{ m.name }}</b> <span v-if="m.id === team.me" class="quiet">you</span><br />
                <span class="quiet">{{ m.email }}</span>
              </td>
              <td>
                <ChooseOne
                  v-if="team.looksAfter"
                  :model-value="m.role"
                  class="role"
                  :name="`Role of ${m.name}`"
                  :options="roles"
                  @update:model-value="r => setRole(m, r)"
                />
                <template v-else>{{ ROLE_WORDS[m.role].name }}</template>
              </td>
              <td>{{ m.zone.replaceAll('_', ' ') }}</td>
              <td>{{ m.connections.join(', ') || '–' }}</td>
              <td class="act">
                <Button v-if="m.id === team.me" size="small" @click="leaving = m">Leave</Button>
                <template v-else>
                  <Button v-if="!session.onlyLooks" size="small" @click="seeAs(m)">See as</Button>
                  <Button v-if="!session.onlyLooks" size="small" @click="asking = m">Ask to see</Button>
                  <Button v-if="team.looksAfter" size="small" @click="leaving = m">Remove</Button>
                </template>
              </td>
            </tr>
          </tbody>
        </table>
      </div>
      <dl class="roles quiet">
        <template v-for="(w, role) in ROLE_WORDS" :key="role"
          ><dt>{{ w.name }}</dt>
          <dd>{{ w.may }}</dd></template
        >
      </dl>
      <div v-if="team.looksAfter" class="beside">
        <section class="sheet part">
          <h2>Invite</h2>
          <Form layout="inline" :model="given" :required-mark="false" class="invite" @finish="invite">
            <FormItem
              name="email"
              class="mail"
              :rules="[{ required: true, message: 'Type a mail address.' }]"
            >
              <Input
                v-model:value="given.email"
                type="email"
                placeholder="Mail address"
                aria-label="Mail address of whom you invite"
              />
            </FormItem>
            <ChooseOne v-model="given.role" class="role" name="Their role" :options="roles" />
            <Button type="primary" html-type="submit" :loading="busy">Invite</Button>
          </Form>
          <OpenInvitations :made="made" :invitations="team.invitations" @made="m => (made = m)" />
        </section>
        <section class="sheet part">
          <h2>Workspace</h2>
          <form class="place" @submit.prevent="rename">
            <label>Name <Input v-model:value="place.name" :maxlength="200" /></label>
            <label
              >Time zone of its rules
              <ChooseOne v-model="place.zone" name="Time zone of the workspace" searchable :options="zones"
            /></label>
            <Button html-type="submit" :disabled="!isChanged || place.name.trim() === ''" :loading="busy"
              >Save</Button
            >
          </form>
          <p class="second">
            <Checkbox :checked="team.workspace?.wantsSecond" :disabled="busy" @change="wantSecond"
              >Everybody signs in with a passkey or one-time codes</Checkbox
            >
            <span v-if="team.without.length > 0" class="quiet">
              {{ without }} {{ team.without.length === 1 ? 'has' : 'have' }} neither yet{{
                team.workspace?.wantsSecond ? '' : ', and would be asked to set one up at once'
              }}.
            </span>
          </p>
          <p class="second">
            <span
              ><a href="/api/team/export" download>Download the workspace</a>{{ ' ' }}
              <span class="quiet">as far as you see it (JSON; tasks and events as JSCalendar)</span></span
            >
          </p>
          <p class="delete"><Button danger @click="deleting = true">Delete this workspace…</Button></p>
        </section>
      </div>
      <DeleteWorkspace v-if="deleting" :name="team.workspace?.name ?? ''" @close="deleting = false" />
      <RemoveMember
        v-if="leaving"
        :member="leaving"
        :is-me="leaving.id === team.me"
        @close="leaving = null"
      />
    </template>
  </main>
</template>

<style scoped>
.scroll {
  overflow-x: auto;
}
table {
  width: 100%;
  border-collapse: collapse;
}
th {
  text-align: left;
  font-weight: 400;
  color: var(--husk);
  padding: 8px 14px;
}
td {
  padding: 8px 14px;
}
tbody td {
  border-top: 1px solid var(--warp);
}
.act {
  text-align: right;
  white-space: nowrap;
}
.act > * + * {
  margin-left: 8px;
}
.role {
  width: 150px;
}
.roles {
  display: grid;
  grid-template-columns: max-content 1fr;
  gap: 2px 12px;
  margin: 12px 14px;
  font-size: 13px;
}
dt {
  font-weight: 600;
}
dd {
  margin: 0;
}
.beside {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(min(400px, 100%), 1fr));
  gap: 12px;
  align-items: start;
}
.part {
  padding: 16px 18px;
}
h2 {
  margin-bottom: 10px;
}
.invite {
  display: flex;
  gap: 8px;
}
.mail {
  flex: 1;
  min-width: 180px;
  margin: 0;
}
.place {
  display: grid;
  gap: 10px;
  justify-items: start;
}
.place label {
  display: grid;
  gap: 4px;
  width: min(360px, 100%);
  color: var(--husk);
}
@media (max-width: 720px) {
  td,
  th {
    padding: 8px;
  }
  td {
    overflow-wrap: anywhere;
  }
  :is(td, th):is(:nth-child(3), :nth-child(4)) {
    display: none;
  }
  td .role {
    width: 122px;
  }
}
.second {
  display: grid;
  gap: 2px;
  margin: 16px 0 0;
}
.delete {
  margin: 18px 0 0;
}
.why {
  color: var(--clay);
}
</style>
