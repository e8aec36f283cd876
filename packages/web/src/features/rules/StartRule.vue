<script setup lang="ts">
import { READY_MADE, type ReadyMade } from '@loom/core/view'
import { Button, Textarea } from 'ant-design-vue'
import { ref } from 'vue'
import { answer, api } from '../../api/client.ts'
import { useAttempt } from '../../ui/attempt.ts'
import KindPicture from './KindPicture.vue'
import type { Given } from './use-rule-draft.ts'

/** Where a rule begins: one of a handful of kinds, or the paper of a rule made elsewhere. */
const emit = defineEmits<{ start: [kind: ReadyMade]; paper: [given: Given] }>()

const reading = ref(false)
const text = ref('')
const { reason, attempt } = useAttempt()

const read = () =>
  attempt(async () => {
    const { name, a, b, settings } = await answer(() => api.rules.paper.$post({ json: { text: text.value } }))
    emit('paper', { name: name ?? '', a: a ?? undefined, b: b ?? undefined, settings })
  })
async function readFile(event: Event): Promise<void> {
  const file = (event.target as HTMLInputElement).files?.[0]
  if (!file) return
  text.value = (await file.text()).slice(0, 200_000)
  await read()
}
</script>

<template>
  <h2>What is it to do?</h2>
  <ul class="kinds">
    <li v-for="k in READY_MADE" :key="k.id">
      <button type="button" class="plain" @click="emit('start', k)">
        <KindPicture :kind="k" />
        <strong>{{ k.name }}</strong>
        <span>{{ k.says }}</span>
        <span class="quiet">{{
          k.kinds.a === k.kinds.b
            ? k.kinds.a === 'task'
              ? 'two task lists'
              : 'two calendars'
            : 'a task list and a calendar'
        }}</span>
      </button>
    </li>
  </ul>
  <p>
    <button type="button" class="plain link" :aria-expanded="reading" @click="reading = !reading">
      Import a rule
    </button>
  </p>
  <section v-if="reading" class="sheet paper" aria-label="A rule that was written out">
    <Textarea
      v-model:value="text"
      :rows="6"
      aria-label="The rule’s text"
      placeholder="Paste it here, or choose the file."
    />
    <p v-if="reason" role="alert" class="why">{{ reason }}</p>
    <span class="row">
      <Button :disabled="!text.trim()" @click="read">Check it</Button>
      <label class="pick"
        >Choose a file<input
          type="file"
          accept=".json,application/json"
          class="visually-hidden"
          @change="readFile"
      /></label>
    </span>
  </section>
</template>

<style scoped>
.kinds {
  list-style: none;
  padding: 0;
  margin: 10px 0 14px;
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(280px, 1fr));
  gap: 12px;
}
.kinds button {
  background: var(--cloth);
  border: 1px solid var(--warp);
  border-radius: 3px;
  display: grid;
  align-content: start;
  gap: 5px;
  width: 100%;
  height: 100%;
  padding: 14px;
  text-align: left;
}
.kinds button:hover {
  border-color: var(--amber);
}
.kinds strong {
  font:
    700 16px 'Bricolage Grotesque Variable',
    sans-serif;
}
.link {
  color: var(--amber);
  text-decoration: underline;
}
.paper {
  padding: 12px;
  display: grid;
  gap: 8px;
}
.row {
  display: flex;
  gap: 10px;
}
.why {
  color: var(--clay);
  margin: 0;
}
</style>
