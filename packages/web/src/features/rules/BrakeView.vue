<script setup lang="ts">
import { dayAt, dayWords, lossesInWords, lossWords, reasonWords } from '@loom/core/view'
import { useQuery, useQueryCache } from '@pinia/colada'
import { Button, Checkbox } from 'ant-design-vue'
import { computed, ref } from 'vue'
import { answer, api } from '../../api/client.ts'
import { useAttempt } from '../../ui/attempt.ts'
import { say } from '../../stores/messages.ts'
import { useMine } from '../../stores/mine.ts'
import { useSession } from '../../stores/session.ts'
import RulesTabs from './RulesTabs.vue'

/** What the brake holds: so much would go in a day, or be made at once, that a person should look first. */
const cache = useQueryCache()
const mine = useMine()
const session = useSession()
const dayOf = (epochMs: number): string => dayAt(epochMs, mine.me.value?.zone ?? 'UTC')
const load = () => answer(() => api.waiting.brake.$get())
/** Effects of which a person is asked in words of their own. */
const OTHERWISE: readonly string[] = ['made', 'restored']
type Item = Awaited<ReturnType<typeof load>>['items'][number]
const query = useQuery({ key: ['rules', 'brake'], query: load })
const items = computed(() => query.data.value?.items ?? [])
const groups = computed(() => {
  const all = new Map<string, Item[]>()
  for (const i of items.value) {
    const key = `${i.ruleId} ${i.collection} ${OTHERWISE.includes(i.effect) ? i.effect : ''}`
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

/** Those that begin today or later; what has no date is still to come. */
function fromToday(list: Item[]): Item[] {
  const today = dayOf(session.now())
  return list.filter(i => i.startMs === null || dayOf(i.startMs) >= today)
}
const makes = (i: Item): string => (i.madeKind === 'event' ? 'an event' : 'a task')

const send = (list: Item[], what: 'go' | 'restore' | 'none') =>
  answer(() => api.waiting.brake.$post({ json: { ties: list.map(i => i.tie), answer: what } }))

/** Makes counterparts for `wanted`, and none for the others of the group. */
const make = (all: Item[], wanted: Item[]) =>
  attempt(async () => {
    const others = all.filter(i => !wanted.includes(i))
    if (wanted.length > 0) await send(wanted, 'go')
    if (others.length > 0) await send(others, 'none')
    const [kind] = all.map(i => i.madeKind)
    say({
      text:
        wanted.length === 0
          ? `No ${kind} is made for these ${all.length}. They stay as they are.`
          : `${wanted.length} ${kind}${wanted.length === 1 ? ' is' : 's are'} made.`,
    })
    await cache.invalidateQueries({ key: ['rules'] })
  })

const decide = (list: Item[], what: 'go' | 'restore') =>
  attempt(async () => {
    await send(list, what)
    say({
      text:
        what === 'go' && list[0]?.effect === 'restored'
          ? `${list.length} say again what they said. The journal keeps the older versions.`
          : what === 'go'
            ? `${list.length} will go as listed. The journal keeps what they held for 90 days.`
            : list[0]?.effect === 'restored'
              ? `The older versions of ${list.length} stand, and go over to the other side.`
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
        follow stops here first, whatever it is. So do counterparts of more than twenty new items that came at
        once. Everything else goes on.
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
            g.first.effect === 'made'
              ? `${g.list.length} new ${g.first.itemKind}s would each get ${makes(g.first)} in ${g.first.madeIn}`
              : lossesInWords(
                  g.list.map(i => i.effect),
                  g.first.itemKind,
                )
          }}
        </h2>
        <p v-if="g.first.effect === 'made'">
          They all came at once, as from an import or a moved list, so the rule
          <RouterLink :to="`/rules/${g.first.ruleId}`">{{ g.first.rule }}</RouterLink> asks first. Those
          without {{ makes(g.first) }} stay as they are.
        </p>
        <p v-else-if="g.first.effect === 'restored'">
          {{ g.first.place }} shows earlier versions of them again, as after a restored backup. Nobody changed
          them, so the rule <RouterLink :to="`/rules/${g.first.ruleId}`">{{ g.first.rule }}</RouterLink> would
          write back what they said before. It asks first, because they are so many.
        </p>
        <p v-else>
          The rule <RouterLink :to="`/rules/${g.first.ruleId}`">{{ g.first.rule }}</RouterLink> asks for it
          because {{ [...new Set(g.list.map(i => reasonWords(i.reason)))].join('; ') }}. With it, more than a
          tenth of a list or calendar goes in a day. If a whole list vanished by accident, this is what it
          looks like.
        </p>
      </header>
      <ul>
        <li v-for="i in g.list" :key="i.tie">
          <Checkbox :checked="!spared.includes(i.tie)" @change="toggle(i.tie)">{{ i.title }}</Checkbox>
          <span class="quiet">{{
            i.effect === 'made'
              ? i.startMs === null
                ? 'no date'
                : dayWords(dayOf(i.startMs))
              : lossWords(i.effect)
          }}</span>
        </li>
      </ul>
      <footer v-if="g.first.effect === 'made'">
        <Button
          type="primary"
          :disabled="busy || picked(g.list).length === 0"
          @click="make(g.list, picked(g.list))"
          >{{
            picked(g.list).length === g.list.length
              ? `Make all ${g.list.length}`
              : `Make these ${picked(g.list).length}`
          }}</Button
        >
        <Button
          v-if="fromToday(g.list).length > 0 && fromToday(g.list).length < g.list.length"
          :disabled="busy"
          @click="make(g.list, fromToday(g.list))"
          >Only from today on: {{ fromToday(g.list).length }}</Button
        >
        <Button :disabled="busy" @click="make(g.list, [])">Make none</Button>
      </footer>
      <footer v-else-if="g.first.effect === 'restored'">
        <Button
          type="primary"
          :disabled="busy || picked(g.list).length === 0"
          @click="decide(picked(g.list), 'go')"
          >Write back {{ picked(g.list).length }}</Button
        >
        <Button :disabled="busy || picked(g.list).length === 0" @click="decide(picked(g.list), 'restore')"
          >Let the older versions stand</Button
        >
        <Button :disabled="busy" @click="pause(g.first.ruleId)">Pause the rule</Button>
      </footer>
      <footer v-else>
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
