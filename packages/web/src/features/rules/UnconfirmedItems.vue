<script setup lang="ts">
import { useQueryCache } from '@pinia/colada'
import { Button } from 'ant-design-vue'
import { answer, api } from '../../api/client.ts'
import { useAttempt } from '../../ui/attempt.ts'
import { say } from '../../stores/messages.ts'
import type { Unconfirmed } from './use-waiting.ts'

/** New items whose service never answered, and where looking cannot tell either whether they were made. */
defineProps<{ unconfirmed: Unconfirmed[]; day: (at: number) => string }>()

const cache = useQueryCache()
const { busy, reason, attempt } = useAttempt()
const told = (of: Unconfirmed) => ({
  look: 'It is looked for again.',
  make: 'It is made now.',
  leave: of.rule
    ? 'It is left as it is, and its rule does not make it until it has another date.'
    : 'It is left as it is.',
})
const tell = (of: Unconfirmed, word: keyof ReturnType<typeof told>) =>
  attempt(async () => {
    await answer(() => api.waiting.unconfirmed.$post({ json: { of: [of.id], answer: word } }))
    say({ text: told(of)[word] })
    await cache.invalidateQueries({ key: ['rules'] })
  })
</script>

<template>
  <p v-if="reason" class="why" role="alert">{{ reason }}</p>
  <article v-for="q in unconfirmed" :key="q.id" class="sheet" :aria-label="`${q.title}, was it made?`">
    <header>
      <h2>{{ q.title }}</h2>
      <span class="quiet"
        >was it made? · {{ q.place }}
        <template v-if="q.rule"
          >· <RouterLink :to="`/rules/${q.ruleId}`">{{ q.rule }}</RouterLink></template
        >
        · waits since {{ day(q.since) }}</span
      >
    </header>
    <p class="quiet">
      We sent this {{ q.kind }} and no answer came. {{ q.reason }} Nothing is made a second time before you
      say so.
    </p>
    <div class="row">
      <Button :disabled="busy" @click="tell(q, 'look')">Check again</Button>
      <Button :disabled="busy" @click="tell(q, 'make')">It is not there: make it</Button>
      <Button :disabled="busy" @click="tell(q, 'leave')">It is there: leave it</Button>
    </div>
  </article>
</template>

<style scoped>
article {
  padding: 12px 14px;
  margin-bottom: 10px;
  border-left: 4px solid var(--clay);
}
header {
  display: flex;
  align-items: baseline;
  gap: 10px;
  flex-wrap: wrap;
}
p {
  margin: 4px 0 10px;
}
.why {
  color: var(--clay);
}
.row {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
}
</style>
