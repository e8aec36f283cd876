<script setup lang="ts">
import { PhArrowsLeftRight, PhPlus } from '@phosphor-icons/vue'
import { Button } from 'ant-design-vue'
import { agoWords } from '../connections/use-connections.ts'
import { useRules } from './use-rules.ts'

const { rules, now, loaded, trouble } = useRules()
</script>

<template>
  <main class="page">
    <div class="page-head">
      <h1>Rules</h1>
      <span class="quiet">Each pairs a task list with a calendar and keeps the two in step, both ways.</span>
      <span class="spacer" />
      <RouterLink to="/rules/new" custom v-slot="{ navigate }">
        <Button type="primary" class="with-icon" @click="navigate"><PhPlus :size="15" /> New rule</Button>
      </RouterLink>
    </div>
    <p v-if="trouble" role="alert">{{ trouble }}</p>
    <div v-if="loaded && rules.length === 0" class="sheet empty">
      <h2>No rule yet</h2>
      <p>
        A rule makes an event for each task that has an hour, and carries every change to the other side. You
        see what it would do before it is on.
      </p>
      <RouterLink to="/rules/new">Make the first rule</RouterLink>
    </div>
    <ul v-else class="sheet">
      <li v-for="r in rules" :key="r.id">
        <RouterLink :to="`/rules/${r.id}`">
          <span class="pair">
            <span class="dye" :style="{ background: r.aDye }" />{{ r.aName }}
            <PhArrowsLeftRight :size="17" class="arrows" aria-label="both ways with" />
            <span class="dye" :style="{ background: r.bDye }" />{{ r.bName }}
          </span>
          <span class="quiet says">
            Every task with an hour has its event; done tasks are marked {{ r.settings.mark }} and shown free.
          </span>
        </RouterLink>
        <span class="state" :class="r.state">
          <strong>{{ r.state === 'on' ? 'On' : 'Paused' }}</strong>
          <span class="quiet"
            >{{ r.ties }} tied · {{ r.waiting > 0 ? `${r.waiting} on the way` : 'nothing waits' }} · last pass
            {{ agoWords(r.lastPassAt, now) }}</span
          >
          <span v-for="n in r.notices" :key="n" class="why">{{ n }}</span>
        </span>
      </li>
    </ul>
  </main>
</template>

<style scoped>
.empty {
  padding: 28px;
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
}
li {
  display: grid;
  grid-template-columns: minmax(0, 1.5fr) minmax(0, 1fr);
  gap: 20px;
  align-items: center;
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
.pair {
  display: flex;
  align-items: center;
  gap: 9px;
  font-weight: 700;
  flex-wrap: wrap;
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
@media (max-width: 720px) {
  li {
    grid-template-columns: 1fr;
  }
}
</style>
