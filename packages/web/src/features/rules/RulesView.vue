<script setup lang="ts">
import { PhArrowDown, PhArrowRight, PhArrowUp, PhArrowsLeftRight, PhPlus } from '@phosphor-icons/vue'
import { ruleLine } from '@loom/core/view'
import { useQueryCache } from '@pinia/colada'
import { Button } from 'ant-design-vue'
import { answer, api } from '../../api/client.ts'
import { agoWords } from '../../stores/connections.ts'
import { say } from '../../stores/messages.ts'
import { askedWords } from '../team/asks.ts'
import RulesTabs from './RulesTabs.vue'
import { type RuleView, useRules } from './use-rules.ts'

const { rules, now, loaded, trouble, others } = useRules()
const cache = useQueryCache()

/** The last part of a name is the list's own; the service stands before it. */
const bare = (name: string): string => name.split(' · ').at(-1) ?? name
/** The name of a rule without a name. */
const plainName = (r: RuleView): string => `${bare(r.aName)} ⇄ ${bare(r.bName)}`
const goesBothWays = ({ settings }: RuleView): boolean =>
  Object.values(settings.fields).some(way => way === 'both' || way === 'b-to-a')
const line = (r: RuleView): string => ruleLine(r.settings, r.kinds, bare(r.aName), bare(r.bName))
function waits(r: RuleView): string {
  const parts = [
    r.conflicts + r.unconfirmed > 0 ? `${r.conflicts + r.unconfirmed} for you to decide` : '',
    r.braked > 0 ? `${r.braked} held by the brake` : '',
    r.waiting > 0 ? `${r.waiting} on the way` : '',
  ].filter(Boolean)
  return parts.join(', ') || 'nothing waits'
}

async function setState(r: RuleView): Promise<void> {
  const done = await answer(() =>
    api.rules[':id'].state.$put({ param: { id: r.id }, json: { state: r.state === 'on' ? 'paused' : 'on' } }),
  )
  if ('reason' in done) say({ text: askedWords(done.asked) })
  await cache.invalidateQueries({ key: ['rules'] })
}
/** Earlier rules own a field that two of them would write. */
async function move(r: RuleView, by: -1 | 1): Promise<void> {
  const ids = rules.value.map(x => x.id)
  const at = ids.indexOf(r.id)
  const other = ids[at + by]
  if (other === undefined) return
  ids[at] = other
  ids[at + by] = r.id
  await answer(() => api.rules.order.$put({ json: { ids } }))
  await cache.invalidateQueries({ key: ['rules'] })
}
</script>

<template>
  <main class="page">
    <div class="page-head">
      <h1>Rules</h1>
      <span class="quiet">Each pairs two sides and keeps them in step. The upper one goes first.</span>
      <span class="spacer" />
      <RouterLink to="/rules/new" custom v-slot="{ navigate }">
        <Button type="primary" class="with-icon" @click="navigate"><PhPlus :size="15" /> New rule</Button>
      </RouterLink>
    </div>
    <RulesTabs />
    <p v-if="trouble" role="alert">{{ trouble }}</p>
    <div v-if="loaded && rules.length === 0" class="sheet empty">
      <h2>No rule yet</h2>
      <p>
        A rule makes an event for each task that has an hour, or keeps two lists as one, and carries every
        change to the other side. You see what it would do before it is on.
      </p>
      <RouterLink to="/rules/new">Make the first rule</RouterLink>
    </div>
    <ol v-else class="sheet">
      <li v-for="(r, i) in rules" :key="r.id" :class="r.state">
        <RouterLink :to="`/rules/${r.id}`">
          <strong v-if="r.name !== plainName(r)" class="name">{{ r.name }}</strong>
          <span class="pair">
            <span class="dye" :style="{ background: r.aDye }" />{{ r.aName }}
            <PhArrowsLeftRight v-if="goesBothWays(r)" :size="17" class="arrows" aria-label="with" />
            <PhArrowRight v-else :size="17" class="arrows" aria-label="to" />
            <span class="dye" :style="{ background: r.bDye }" />{{ r.bName }}
          </span>
          <span class="says">{{ line(r) }}</span>
        </RouterLink>
        <span class="state">
          <span
            ><strong>{{ r.state === 'on' ? 'On' : 'Paused' }}</strong> · {{ r.ties }} tied ·
            {{ waits(r) }}</span
          >
          <span class="quiet">last run {{ agoWords(r.lastPassAt, now) }}</span>
          <span v-for="n in r.notices.slice(0, 3)" :key="n" class="why">{{ n }}</span>
          <span v-if="r.notices.length > 3" class="why"
            >and {{ r.notices.length - 3 }} more on its sheet</span
          >
          <span v-for="w in r.weaker" :key="w" class="quiet">{{ w }}</span>
        </span>
        <span class="acts">
          <Button
            size="small"
            :aria-label="`${r.state === 'on' ? 'Pause' : 'Resume'} ${r.name}`"
            @click="setState(r)"
            >{{ r.state === 'on' ? 'Pause' : 'Resume' }}</Button
          >
          <span v-if="rules.length > 1" class="order">
            <button
              type="button"
              class="plain"
              :disabled="i === 0"
              :aria-label="`${r.name}: earlier`"
              @click="move(r, -1)"
            >
              <PhArrowUp :size="14" />
            </button>
            <button
              type="button"
              class="plain"
              :disabled="i === rules.length - 1"
              :aria-label="`${r.name}: later`"
              @click="move(r, 1)"
            >
              <PhArrowDown :size="14" />
            </button>
          </span>
        </span>
      </li>
    </ol>
    <p v-if="others > 0" class="quiet">
      {{ others }} {{ others === 1 ? 'rule more is' : 'rules more are' }} for those who may change both their
      sides.
    </p>
  </main>
</template>

<style scoped>
.empty {
  padding: 28px;
}
ol {
  list-style: none;
  margin: 0;
  padding: 0;
}
li {
  display: grid;
  grid-template-columns: minmax(0, 1.6fr) minmax(0, 1fr) auto;
  gap: 20px;
  align-items: start;
  padding: 13px 14px;
}
li + li {
  border-top: 1px solid var(--warp);
}
li a {
  color: inherit;
  text-decoration: none;
  display: grid;
  gap: 4px;
}
li a:hover .pair {
  text-decoration: underline;
}
.paused .says,
.paused .pair {
  color: var(--husk);
}
.pair {
  display: flex;
  align-items: center;
  gap: 9px;
  font-weight: 700;
  flex-wrap: wrap;
}
.name {
  font-size: 15px;
}
.name + .pair {
  font-weight: 400;
}
.arrows {
  color: var(--amber);
}
.dye {
  height: 18px;
}
.state {
  display: grid;
  font-size: 13px;
}
.why {
  color: var(--clay);
}
.acts {
  display: grid;
  gap: 6px;
  justify-items: end;
}
.order {
  display: flex;
}
.order button {
  display: grid;
  place-items: center;
  width: 24px;
  height: 24px;
}
.order button:disabled {
  color: var(--warp-strong);
  cursor: default;
}
@media (max-width: 720px) {
  li {
    grid-template-columns: 1fr;
  }
  .acts {
    justify-items: start;
  }
}
</style>
