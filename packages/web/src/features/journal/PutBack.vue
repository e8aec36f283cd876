<script setup lang="ts">
import { valueWords } from '../../ui/telling.ts'
import { FIELD_WORDS } from '@loom/core/view'
import { useQuery, useQueryCache } from '@pinia/colada'
import { Modal } from 'ant-design-vue'
import { computed } from 'vue'
import { answer, api } from '../../api/client.ts'
import { useAttempt } from '../../ui/attempt.ts'
import { say } from '../../stores/messages.ts'

/** What putting these entries back would do, before it is done. */
const props = defineProps<{ entries: number[]; zone: string }>()
const emit = defineEmits<{ close: [] }>()
const cache = useQueryCache()
const { busy, reason, attempt } = useAttempt()

const query = useQuery({
  key: () => ['journal', 'put-back', props.entries],
  query: () => answer(() => api.journal['put-back'].look.$post({ json: { entries: props.entries } })),
})
const lines = computed(() => query.data.value?.lines ?? [])
const possible = computed(() => lines.value.filter(l => l.does !== 'cannot'))
const DOES = {
  patch: 'says again',
  delete: 'is removed again',
  create: 'comes back',
  cannot: 'stays as it is',
} as const

const go = () =>
  attempt(async () => {
    const entries = possible.value.map(l => l.entry)
    const { queued } = await answer(() => api.journal['put-back'].$post({ json: { entries } }))
    const them = queued === 1 ? 'it' : 'them'
    say({ text: `${queued} undone. The rule leaves ${them} so until somebody changes ${them}.` })
    await cache.invalidateQueries({ key: ['journal'] })
    emit('close')
  })
</script>

<template>
  <Modal
    open
    title="Undo"
    :ok-text="possible.length > 0 ? `Undo ${possible.length}` : 'Nothing to undo'"
    cancel-text="Leave as it is"
    :ok-button-props="{ disabled: possible.length === 0 }"
    :confirm-loading="busy"
    :width="620"
    @ok="go"
    @cancel="emit('close')"
  >
    <p v-if="query.error.value" role="alert">{{ query.error.value.message }}</p>
    <p v-if="reason" role="alert" class="why">{{ reason }}</p>
    <p v-if="!query.data.value" class="quiet">Checking the present values…</p>
    <ul>
      <li v-for="l in lines" :key="l.entry" :class="l.does">
        <strong>{{ l.title }}</strong> <span class="quiet">in {{ l.place }} {{ DOES[l.does] }}</span>
        <span v-for="f in l.fields" :key="f.field" class="field"
          >{{ FIELD_WORDS[f.field] }}: <s>{{ valueWords(f.before, zone) ?? 'empty' }}</s> →
          {{ valueWords(f.after, zone) ?? 'empty' }}</span
        >
        <span v-if="l.skipped.length > 0" class="field quiet"
          >{{ l.skipped.map(f => FIELD_WORDS[f as keyof typeof FIELD_WORDS]).join(', ') }} was changed since
          and stays</span
        >
        <span v-if="l.reason" class="field quiet">{{ l.reason }}</span>
      </li>
    </ul>
  </Modal>
</template>

<style scoped>
ul {
  list-style: none;
  margin: 0;
  padding: 0;
  max-height: 50vh;
  overflow: auto;
}
li {
  padding: 6px 0;
  border-bottom: 1px solid var(--warp);
}
.cannot strong {
  color: var(--husk);
}
.field {
  display: block;
  overflow-wrap: anywhere;
}
.why {
  color: var(--clay);
}
</style>
