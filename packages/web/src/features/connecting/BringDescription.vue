<script setup lang="ts">
import { Button, Input, InputPassword, Textarea } from 'ant-design-vue'
import { computed, reactive, ref } from 'vue'
import { answer, api } from '../../api/client.ts'
import { useAttempt } from '../../ui/attempt.ts'

/** A service description: checked as it stands, tried against its service, and kept. */
const emit = defineEmits<{ brought: [id: string] }>()

const text = ref('')
const errors = ref<string[]>([])
const given = reactive({ address: '', key: '', user: '', password: '', list: '' })
const { busy, reason, attempt } = useAttempt()
const trial = () =>
  answer(() =>
    api.connecting.services.trial.$post({
      json: {
        description: text.value,
        list: given.list.trim() || null,
        address: given.address,
        key: given.key,
        user: given.user,
        password: given.password,
      },
    }),
  )
type Trial = Awaited<ReturnType<typeof trial>>
const result = ref<Trial | null>(null)

/** What the text says so far, as far as it can be read. */
const read = computed(() => {
  try {
    const json = JSON.parse(text.value) as { name?: unknown; address?: unknown; signIn?: { kind?: unknown } }
    return {
      name: String(json.name ?? ''),
      address: String(json.address ?? ''),
      basic: json.signIn?.kind === 'basic',
      consent: json.signIn?.kind === 'oauth2',
    }
  } catch {
    return null
  }
})

async function file(event: Event): Promise<void> {
  const input = event.target as HTMLInputElement
  const [chosen] = input.files ?? []
  if (chosen) text.value = await chosen.text()
  input.value = ''
}
/** Errors come as a list, each naming its path. */
async function keep(): Promise<void> {
  errors.value = []
  await attempt(async () => {
    const response = await api.connecting.services.$post({ json: { description: text.value } })
    if (response.status === 422) {
      const body = await response.json()
      reason.value = body.reason
      errors.value = body.errors
      return
    }
    const { id } = await answer(() => Promise.resolve(response))
    emit('brought', id)
  })
}
const run = (): Promise<boolean> => attempt(async () => void (result.value = await trial()))
const OUTCOMES = { works: 'works', fails: 'fails', 'not-offered': 'not offered' }
</script>

<template>
  <div class="bring">
    <p>
      A description is a JSON document that says how a task manager signs in, lists, changes and completes.
      How to write one: <code>docs/connectors.md</code>, with the schema beside it.
    </p>
    <label class="whole">
      The description
      <Textarea v-model:value="text" :rows="7" spellcheck="false" placeholder='{ "format": …' />
    </label>
    <label class="file"
      >or from a file <input type="file" accept=".json,application/json" @change="file"
    /></label>
    <div v-if="errors.length > 0" class="errors" role="alert">
      <b>{{ reason }}</b>
      <ul>
        <li v-for="e in errors" :key="e">
          <code>{{ e.split(':')[0] }}</code> {{ e.split(':').slice(1).join(':') }}
        </li>
      </ul>
    </div>
    <p v-else-if="reason" class="why" role="alert">{{ reason }}</p>
    <details v-if="read && !read.consent" class="trial">
      <summary>Try it against its service first</summary>
      <div class="fields">
        <label>Address <Input v-model:value="given.address" :placeholder="read.address" /></label>
        <template v-if="read.basic">
          <label>User name <Input v-model:value="given.user" autocomplete="off" /></label>
          <label>Password <InputPassword v-model:value="given.password" autocomplete="new-password" /></label>
        </template>
        <label v-else>Access key <InputPassword v-model:value="given.key" autocomplete="off" /></label>
        <label
          >A list to try writing in
          <Input v-model:value="given.list" placeholder="its id; nothing is written without one"
        /></label>
      </div>
      <Button :loading="busy" :disabled="!given.address.trim()" @click="run">Try it</Button>
      <ul v-if="result" class="checks" aria-label="What works">
        <li v-for="c in result.checks" :key="c.what" :class="c.outcome">
          <b>{{ c.what }}</b> <span class="outcome">{{ OUTCOMES[c.outcome] }}</span>
          <span class="quiet">{{ c.detail }}</span>
        </li>
      </ul>
    </details>
    <Button type="primary" :disabled="!text.trim()" :loading="busy" @click="keep">Save description</Button>
  </div>
</template>

<style scoped>
.bring {
  margin-top: 8px;
  padding: 12px;
  border: 1px solid var(--warp);
  border-radius: 3px;
  display: grid;
  gap: 10px;
  justify-items: start;
}
.bring p {
  margin: 0;
}
.whole {
  display: grid;
  gap: 4px;
  width: 100%;
}
.whole textarea {
  font-family: ui-monospace, monospace;
  font-size: 12.5px;
}
.errors {
  color: var(--clay);
}
.errors ul {
  margin: 4px 0 0;
  padding-left: 18px;
  max-height: 200px;
  overflow: auto;
}
.why {
  color: var(--clay);
}
.trial {
  width: 100%;
}
summary {
  cursor: pointer;
}
.fields {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(220px, 1fr));
  gap: 8px 12px;
  margin: 8px 0;
}
.fields label {
  display: grid;
  gap: 4px;
}
.checks {
  list-style: none;
  padding: 0;
  margin: 10px 0 0;
}
.checks li {
  display: grid;
  grid-template-columns: minmax(160px, 1.2fr) 90px minmax(0, 3fr);
  gap: 10px;
  padding: 2px 0;
}
.works .outcome {
  color: var(--moss);
}
.fails .outcome {
  color: var(--clay);
  font-weight: 700;
}
</style>
