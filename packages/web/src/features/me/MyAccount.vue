<script setup lang="ts">
import { useQuery, useQueryCache } from '@pinia/colada'
import { Button, Form, FormItem, InputPassword } from 'ant-design-vue'
import { reactive, ref } from 'vue'
import { answer, api } from '../../api/client.ts'
import { agoWords } from '../../stores/connections.ts'
import { say } from '../../stores/messages.ts'
import DeleteAccount from './DeleteAccount.vue'
import MyCodes from './MyCodes.vue'
import MyPasskeys from './MyPasskeys.vue'
import { useAttempt } from '../../ui/attempt.ts'

/** One's password, and where one is signed in. */
const cache = useQueryCache()
const query = useQuery({ key: ['account'], query: () => answer(() => api.account.$get()), staleTime: 0 })
const deleting = ref(false)
const password = useAttempt()
const ending = useAttempt()
const given = reactive({ old: '', password: '' })
const sessions = (n: number): string => `${n} other ${n === 1 ? 'session' : 'sessions'}`

async function change(): Promise<void> {
  let ended = 0
  const done = await password.attempt(async () => {
    ended = (await answer(() => api.account.password.$put({ json: { ...given } }))).ended
  })
  if (!done) return
  Object.assign(given, { old: '', password: '' })
  say({ text: `Your password is changed.${ended > 0 ? ` ${sessions(ended)} ended.` : ''}` })
  await cache.invalidateQueries({ key: ['account'] })
}
async function end(id: string | null): Promise<void> {
  const done = await ending.attempt(() =>
    id === null
      ? answer(() => api.account.sessions.$delete())
      : answer(() => api.account.sessions[':id'].$delete({ param: { id } })),
  )
  if (done) say({ text: id === null ? 'You are signed out everywhere else.' : 'That session has ended.' })
  await cache.invalidateQueries({ key: ['account'] })
}
</script>

<template>
  <section class="sheet both" aria-label="Sign-in">
    <Form layout="vertical" :model="given" :required-mark="false" @finish="change">
      <h2>Password</h2>
      <FormItem
        label="Present password"
        name="old"
        :rules="[{ required: true, message: 'Type your present password.' }]"
      >
        <InputPassword v-model:value="given.old" autocomplete="current-password" />
      </FormItem>
      <FormItem
        label="New password, at least 10 characters"
        name="password"
        :rules="[{ required: true, message: 'Choose a password.' }]"
      >
        <InputPassword v-model:value="given.password" autocomplete="new-password" />
      </FormItem>
      <p v-if="password.reason.value" class="why" role="alert">{{ password.reason.value }}</p>
      <Button html-type="submit" :loading="password.busy.value">Change password</Button>
      <h2 class="further">Account</h2>
      <p>
        <a href="/api/account/export" download>Download everything kept about you</a>{{ ' ' }}
        <span class="quiet">(JSON; your intake as JSCalendar)</span>
      </p>
      <Button danger @click="deleting = true">Delete my account…</Button>
    </Form>
    <div>
      <h2>Where you are signed in</h2>
      <ul>
        <li v-for="s in query.data.value?.sessions ?? []" :key="s.id">
          <span class="device">{{ s.device }}</span>
          <span class="quiet">{{
            s.here ? 'here, now' : `last used ${agoWords(s.usedAt, Date.now())}`
          }}</span>
          <Button v-if="!s.here" size="small" :disabled="ending.busy.value" @click="end(s.id)"
            >Sign out there</Button
          >
        </li>
      </ul>
      <p v-if="ending.reason.value" class="why" role="alert">{{ ending.reason.value }}</p>
      <Button
        v-if="(query.data.value?.sessions.length ?? 0) > 1"
        :disabled="ending.busy.value"
        @click="end(null)"
        >Sign out everywhere else</Button
      >
      <p v-else class="quiet">Nowhere else.</p>
      <MyPasskeys class="further" />
      <MyCodes class="further" />
    </div>
    <DeleteAccount v-if="deleting" @close="deleting = false" />
  </section>
</template>

<style scoped>
.both {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(min(460px, 100%), 1fr));
  gap: 4px 44px;
  padding: 18px 20px;
  margin-top: 12px;
}
h2 {
  margin-bottom: 10px;
}
form {
  max-width: 360px;
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
.device {
  flex: 1;
}

.further {
  margin-top: 22px;
}
.why {
  color: var(--clay);
}
</style>
