<script setup lang="ts">
import { PhArrowsClockwise, PhCalendarBlank, PhListChecks, PhPlus } from '@phosphor-icons/vue'
import { Button, Modal, Switch } from 'ant-design-vue'
import { ref } from 'vue'
import { answer, api, Refused } from '../../api/client.ts'
import { say } from '../../app/messages.ts'
import ConnectDialog from './ConnectDialog.vue'
import ProblemsDialog from './ProblemsDialog.vue'
import { agoWords, type Collection, type Connection, STATE_WORDS, useConnections } from './use-connections.ts'

const { connections, now, loaded, trouble } = useConnections()
const dialog = ref<{ kind: 'connect' } | { kind: 'again' | 'problems'; connection: Connection } | null>(null)

async function tell(work: Promise<unknown>, done: string): Promise<void> {
  try {
    await work
    if (done) say({ text: done })
  } catch (error) {
    if (!(error instanceof Refused)) throw error
    say({ text: error.message, tone: 'wrong' })
  }
}

function choose(connection: Connection, collection: Collection, takesPart: boolean): void {
  const ids = connection.collections
    .filter(c => (c.id === collection.id ? takesPart : c.takesPart))
    .map(c => c.remoteId)
  const words = takesPart
    ? `${collection.name} takes part.`
    : `${collection.name} no longer takes part. Nothing was deleted there.`
  void tell(
    api.connections[':id'].collections.$put({ param: { id: connection.id }, json: { takesPart: ids } }),
    words,
  )
}

const look = (c: Connection): Promise<void> =>
  tell(
    answer(() => api.connections[':id'].look.$post({ param: { id: c.id } })),
    `Looking at ${c.name} now.`,
  )

const totals = (c: Connection): { items: number; problems: number } => ({
  items: c.collections.reduce((n, k) => n + k.items, 0),
  problems: c.collections.reduce((n, k) => n + k.problems, 0),
})

function disconnect(c: Connection): void {
  Modal.confirm({
    title: `Disconnect ${c.name}?`,
    content: `Here, its ${totals(c).items} items and the rules that use them go away. At ${c.name} itself nothing is deleted or changed. The journal stays.`,
    okText: 'Disconnect',
    cancelText: 'Leave it',
    okType: 'danger',
    onOk: () =>
      tell(
        answer(() => api.connections[':id'].$delete({ param: { id: c.id } })),
        `${c.name} is disconnected.`,
      ),
  })
}

/** “catching up” until everything that takes part was read once. */
const stateOf = (c: Connection): string => {
  if (c.state !== 'ok') return STATE_WORDS[c.state]
  const waiting = c.collections.filter(k => k.takesPart && k.syncedAt === null).length
  return waiting > 0 ? `Catching up, ${waiting} to go` : STATE_WORDS.ok
}
</script>

<template>
  <main class="page">
    <div class="page-head">
      <h1>Connections</h1>
      <span class="quiet"
        >Where your events and tasks live. They stay there; Amber Loom keeps them in step.</span
      >
      <span class="spacer" />
      <Button type="primary" class="with-icon" @click="dialog = { kind: 'connect' }"
        ><PhPlus :size="15" /> Connect a service</Button
      >
    </div>
    <p v-if="trouble" role="alert">{{ trouble }}</p>
    <div v-if="loaded && connections.length === 0" class="sheet empty">
      <h2>Nothing connected yet</h2>
      <p>
        Connect your calendars first, then your task manager. You choose what takes part before anything comes
        in.
      </p>
    </div>
    <section v-for="c in connections" :key="c.id" class="sheet connection" :aria-label="c.name">
      <header>
        <div class="who">
          <h2>{{ c.name }}</h2>
          <span class="quiet"
            >{{ c.kind === 'caldav' ? 'CalDAV · ' : '' }}{{ c.address }} · {{ c.accountName }}</span
          >
        </div>
        <div class="health" :class="c.state">
          <span class="bead" aria-hidden="true" />
          <div>
            <strong>{{ stateOf(c) }}</strong>
            <span class="quiet"> · read {{ agoWords(c.lastOkAt, now) }}</span>
            <div v-if="c.trouble" class="why">
              {{ c.trouble }} Since {{ agoWords(c.failingSince, now) }}; we try again by ourselves.
            </div>
          </div>
        </div>
        <div class="do">
          <Button
            v-if="c.state === 'signed-out'"
            type="primary"
            @click="dialog = { kind: 'again', connection: c }"
            >Sign in again</Button
          >
          <Button class="with-icon" @click="look(c)"><PhArrowsClockwise :size="15" /> Look now</Button>
          <Button type="text" danger @click="disconnect(c)">Disconnect</Button>
        </div>
      </header>
      <ul>
        <li v-for="k in c.collections" :key="k.id" :class="{ out: !k.takesPart }">
          <Switch
            size="small"
            :checked="k.takesPart"
            :aria-label="`${k.name} takes part`"
            @change="on => choose(c, k, on === true)"
          />
          <span class="dye" :style="{ background: k.dye }" />
          <component
            :is="k.holds === 'task' ? PhListChecks : PhCalendarBlank"
            :size="16"
            aria-hidden="true"
          />
          <span class="name">{{ k.name }}</span>
          <span class="quiet facts">
            {{ k.takesPart ? `${k.items} ${k.holds === 'task' ? 'tasks' : 'events'}` : 'does not take part'
            }}{{ k.writable ? '' : ', read only' }}
          </span>
          <span v-if="k.trouble" class="why">{{ k.trouble }}</span>
        </li>
      </ul>
      <button
        v-if="totals(c).problems > 0"
        type="button"
        class="plain problems"
        @click="dialog = { kind: 'problems', connection: c }"
      >
        {{ totals(c).problems }} {{ totals(c).problems === 1 ? 'item' : 'items' }} not understood. They are
        kept as they are; see why.
      </button>
    </section>
    <ConnectDialog v-if="dialog?.kind === 'connect'" @close="dialog = null" />
    <ConnectDialog v-if="dialog?.kind === 'again'" :again="dialog.connection" @close="dialog = null" />
    <ProblemsDialog
      v-if="dialog?.kind === 'problems'"
      :connection="dialog.connection"
      @close="dialog = null"
    />
  </main>
</template>

<style scoped>
.with-icon {
  display: inline-flex;
  align-items: center;
  gap: 6px;
}
.empty {
  padding: 28px;
}
.connection {
  margin-bottom: 12px;
}
.connection header {
  display: grid;
  grid-template-columns: minmax(0, 1.3fr) minmax(0, 1fr) auto;
  gap: 16px;
  align-items: center;
  padding: 12px 14px;
  border-bottom: 1px solid var(--warp);
}
.who {
  display: grid;
  gap: 2px;
  min-width: 0;
}
.who .quiet {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
  font-size: 13px;
}
.health {
  display: flex;
  gap: 9px;
  align-items: baseline;
}
.bead {
  width: 9px;
  height: 9px;
  flex: none;
  border-radius: 50%;
  background: var(--moss);
}
.failing .bead,
.signed-out .bead,
.slowed .bead {
  border-radius: 0;
  transform: rotate(45deg);
  background: var(--clay);
}
.why {
  color: var(--clay);
  font-size: 13px;
}
.do {
  display: flex;
  gap: 8px;
}
ul {
  list-style: none;
  margin: 0;
  padding: 8px 14px 10px;
  display: grid;
  grid-template-columns: repeat(2, minmax(0, 1fr));
  gap: 2px 28px;
}
li {
  display: flex;
  align-items: center;
  gap: 9px;
  padding: 5px 0;
  min-width: 0;
}
.dye {
  height: 16px;
}
.name {
  white-space: nowrap;
  overflow: hidden;
  text-overflow: ellipsis;
}
.facts {
  margin-left: auto;
  font-size: 13px;
  white-space: nowrap;
}
.out .name {
  color: var(--husk);
}
.problems {
  display: block;
  width: 100%;
  text-align: left;
  padding: 8px 14px;
  border-top: 1px solid var(--warp);
  color: var(--clay);
  text-decoration: underline;
}
@media (max-width: 800px) {
  .connection header,
  ul {
    grid-template-columns: 1fr;
  }
}
</style>
