<script setup lang="ts">
import { lossesInWords, lossWords, reasonWords } from '@loom/core/view'
import { useQuery, useQueryCache } from '@pinia/colada'
import { Button, Checkbox } from 'ant-design-vue'
import { computed, ref } from 'vue'
import { answer, api } from '../../api/client.ts'
import { useAttempt } from '../../ui/attempt.ts'
import { say } from '../../stores/messages.ts'
import RulesTabs from './RulesTabs.vue'

/** What the brake holds: so much would go in a day that a person should look first. */
const cache = useQueryCache()
const load = () => answer(() => api.waiting.brake.$get())
type Item = Awaited<ReturnType<typeof load>>['items'][number]
const query = useQuery({ key: ['rules', 'brake'], query: load })
const items = computed(() => query.data.value?.items ?? [])
const groups = computed(() => {
  const all = new Map<string, Item[]>()
  for (const i of items.value) {
    const key = `${i.ruleId} ${i.collection}`
    all.set(key, [...(all.get(key) ?? []), i])
  }
  return [...all].flatMap(([key, list]) => (list[0] ? [{ key, list, first: list[0] }] : []))
})
/** Ties that are left out of what is answered. */
const spared = ref<string[]>([])
const { busy, reason, attempt } = useAttempt()
const picked = (list: Item[]): Item[] => list.filter(i => !spared.value.includes(i.tie))
const toggle = (tie: string): void =>
  void (spared.value = spared.value.includes(tie)
    ? spared.value.filter(t => t !== tie)
    : [...spared.value, tie])

const decide = (list: Item[], what: 'go' | 'restore') =>
  attempt(async () => {
    await answer(() => api.waiting.brake.$post({ json: { ties: list.map(i => i.tie), answer: what } }))
    say({
      text:
        what === 'go'
          ? `${list.length} will go as listed. The journal keeps what they held for 90 days.`
          : `${list.length} are restored on the side where they are missing.`,
    })
    await cache.invalidateQueries({ key: ['rules'] })
  })
async function pause(id: string): Promise<void> {
  await answer(() => api.rules[':id'].state.$put({ param: { id }, json: { state: 'paused' } }))
  say({ text: 'The rule is paused. Both sides stay as they are.' })
  await cache.invalidateQueries({ key: ['rules'] })
}
</script>

<template>
  <main class="page">
    <div class="page-head">
      <h1>Brake</h1>
      <span class="quiet">So much at once looks like a mistake, so it waits for a yes.</span>
    </div>
    <RulesTabs />
    <p v-if="query.error.value" role="alert">{{ query.error.value.message }}</p>
    <p v-if="reason" class="why" role="alert">{{ reason }}</p>
    <div v-if="query.data.value && items.length === 0" class="sheet empty">
      <h2>Nothing on hold</h2>
      <p>
        When more than a tenth of a list or calendar goes within a day, and more than three items, what would
        follow stops here first, whatever it is. Everything else goes on.
      </p>
    </div>
    <section
      v-for="g in groups"
      :key="g.key"
      class="sheet"
      :aria-label="`${g.first.place}: ${g.list.length} on hold`"
    >
      <header>
        <h2>
          {{ g.first.place }}:
          {{
            lossesInWords(
              g.list.map(i => i.effect),
              g.first.itemKind,
            )
          }}
        </h2>
        <p>
          The rule <RouterLink :to="`/rules/${g.first.ruleId}`">{{ g.first.rule }}</RouterLink> asks for it
          because {{ [...new Set(g.list.map(i => reasonWords(i.reason)))].join('; ') }}. With it, more than a
          tenth of a list or calendar goes in a day. If a whole list vanished by accident, this is what it
          looks like.
        </p>
      </header>
      <ul>
        <li v-for="i in g.list" :key="i.tie">
          <Checkbox :checked="!spared.includes(i.tie)" @change="toggle(i.tie)">{{ i.title }}</Checkbox>
          <span class="quiet">{{ lossWords(i.effect) }}</span>
        </li>
      </ul>
      <footer>
        <Button
          type="primary"
          :disabled="busy || picked(g.list).length === 0"
          @click="decide(picked(g.list), 'restore')"
          >Keep and restore {{ picked(g.list).length }}</Button
        >
        <Button danger :disabled="busy || picked(g.list).length === 0" @click="decide(picked(g.list), 'go')"
          >Go ahead with these {{ picked(g.list).length }}</Button
        >
        <Button :disabled="busy" @click="pause(g.first.ruleId)">Pause the rule</Button>
      </footer>
    </section>
  </main>
</template>

<style scoped>
.empty {
  padding: 28px;
}
.why {
  color: var(--clay);
}
section {
  margin-bottom: 12px;
  border-left: 4px solid var(--clay);
}
header,
footer {
  padding: 12px 14px;
}
header p {
  margin: 6px 0 0;
  max-width: 78ch;
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
  max-height: 340px;
  overflow: auto;
  border-block: 1px solid var(--warp);
}
li {
  display: flex;
  justify-content: space-between;
  gap: 14px;
  padding: 5px 14px;
}
li + li {
  border-top: 1px solid var(--warp);
}
footer {
  display: flex;
  flex-wrap: wrap;
  gap: 10px;
}
</style>
