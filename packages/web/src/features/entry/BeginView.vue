<script setup lang="ts">
import { Button, Checkbox, Form, FormItem, Input, InputPassword } from 'ant-design-vue'
import { computed, reactive } from 'vue'
import { answer, api } from '../../api/client.ts'
import { useSession } from '../../stores/session.ts'
import { useAttempt } from '../../ui/attempt.ts'
import ChooseOne from '../../ui/ChooseOne.vue'
import { minuteWords } from '../../ui/telling.ts'
import { minuteOf } from '../../ui/typed-hours.ts'
import { zoneChoices } from '../../ui/zones.ts'
import EntryPage from './EntryPage.vue'
import { useEntryLink } from './use-entry-link.ts'

/** The first person makes their account and the workspace, and goes on to connect a first service. */
const { token, link, error, enter } = useEntryLink()
const session = useSession()
const { busy, reason, attempt } = useAttempt()
const DAYS = ['Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat', 'Sun']
const BREAK_MINUTES = 60
const given = reactive({
  name: '',
  email: '',
  password: '',
  workspace: '',
  zone: Intl.DateTimeFormat().resolvedOptions().timeZone,
  from: minuteWords(9 * 60),
  to: minuteWords(17 * 60),
  days: DAYS.map((_, i) => i < 5),
})
const zones = computed(() => zoneChoices(given.zone, session.now()))
const hoursTrouble = computed(() => {
  const [from, to] = [minuteOf(given.from), minuteOf(given.to)]
  if (from === null || to === null) return 'Write hours as 9:00 or 5:30 pm.'
  return from < to ? '' : 'The day ends before it begins.'
})
const needed = (message: string) => [{ required: true, message }]

async function begin(): Promise<void> {
  const [from, to] = [minuteOf(given.from), minuteOf(given.to)]
  if (from === null || to === null || hoursTrouble.value) return
  const { name, email, password, workspace, zone } = given
  const worked = Math.max(60, to - from - BREAK_MINUTES)
  const hours = { from, to, minutes: given.days.map(works => (works ? worked : 0)), off: [] }
  const done = await attempt(() =>
    answer(() => api.entry.begin.$post({ json: { token, name, email, password, workspace, zone, hours } })),
  )
  if (done) await enter('/connections/new')
}
</script>

<template>
  <EntryPage :title="error ? 'This address does not open anything' : 'Begin'" wide>
    <p v-if="error" role="alert">{{ error }}</p>
    <Form
      v-else-if="link?.purpose === 'begin'"
      layout="vertical"
      :model="given"
      :required-mark="false"
      class="form"
      @finish="begin"
    >
      <FormItem
        class="whole"
        label="What is your team or workspace called?"
        name="workspace"
        :rules="needed('Give it a name.')"
      >
        <Input v-model:value="given.workspace" autofocus size="large" :maxlength="200" />
      </FormItem>
      <FormItem label="Your name" name="name" :rules="needed('Say what you are called.')">
        <Input v-model:value="given.name" autocomplete="name" :maxlength="200" />
      </FormItem>
      <FormItem label="Mail address" name="email" :rules="needed('Type your mail address.')">
        <Input v-model:value="given.email" type="email" autocomplete="username" />
      </FormItem>
      <FormItem
        class="whole"
        label="Password, at least 10 characters"
        name="password"
        :rules="needed('Choose a password.')"
      >
        <InputPassword v-model:value="given.password" autocomplete="new-password" />
      </FormItem>
      <div class="whole line">
        <span>Work is from</span>
        <Input v-model:value="given.from" class="hour" aria-label="Work begins" /> to
        <Input v-model:value="given.to" class="hour" aria-label="Work ends" /> in
        <ChooseOne v-model="given.zone" class="zone" name="Time zone" searchable :options="zones" />
      </div>
      <div class="whole days" role="group" aria-label="Working days">
        <Checkbox v-for="(d, i) in DAYS" :key="d" v-model:checked="given.days[i]">{{ d }}</Checkbox>
      </div>
      <p v-if="hoursTrouble || reason" class="whole why" role="alert">{{ hoursTrouble || reason }}</p>
      <Button class="whole" type="primary" html-type="submit" size="large" block :loading="busy">
        Create the workspace
      </Button>
      <p class="whole quiet after">
        Next you connect a first calendar or task list. Everything here can be changed later.
      </p>
    </Form>
  </EntryPage>
</template>

<style scoped>
.form {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 0 14px;
}
.whole {
  grid-column: 1 / -1;
}
.line {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 8px;
}
.hour {
  width: 84px;
}
.zone {
  flex: 1;
  min-width: 200px;
}
.days {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 6px;
  margin: 10px 0 16px;
}
.why {
  color: var(--clay);
}
.after {
  margin-top: 12px;
}
@media (max-width: 560px) {
  .form {
    grid-template-columns: 1fr;
  }
}
</style>
