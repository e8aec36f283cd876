<script setup lang="ts">
import { PhArrowsClockwise, PhDotsThree } from '@phosphor-icons/vue'
import { filterWords } from '@loom/core/view'
import { Button, Dropdown, Menu, MenuDivider, MenuItem } from 'ant-design-vue'
import { computed, defineAsyncComponent, ref } from 'vue'
import { answer, api } from '../../api/client.ts'
import { useImports } from '../../stores/imports.ts'
import { say } from '../../stores/messages.ts'
import CollectionLine from './CollectionLine.vue'
import HealthLine from './HealthLine.vue'
import { tell } from './tell.ts'
import { type Collection, type Connection, healthOf, importOf } from '../../stores/connections.ts'

/** One connection: whose it is, how it fares, what comes in, and all that can be done about it. */
export type Dialog = 'again' | 'problems' | 'where' | 'disconnect' | 'make'

const DayChart = defineAsyncComponent(() => import('./DayChart.vue'))
const props = defineProps<{ connection: Connection; now: number }>()
const emit = defineEmits<{ open: [dialog: Dialog] }>()

const health = computed(() => healthOf(props.connection, props.now))
const coming = computed(() => importOf(props.connection))
const ended = computed(() => useImports().ended.get(props.connection.id))
const param = computed(() => ({ id: props.connection.id }))
const day = ref(false)
const rest = ref(false)
const own = computed(() => props.connection.kind === 'own')
const byId = computed(() => new Map(props.connection.collections.map(k => [k.remoteId, k])))
/** The list that this one lies in, unless its name says so already. */
const within = (k: Collection): string | undefined => {
  const parent = byId.value.get(k.parent ?? '')?.name
  return parent && !k.name.startsWith(parent + ':') ? parent : undefined
}
const inPart = computed(() => props.connection.collections.filter(k => k.takesPart || own.value))
const notInPart = computed(() => props.connection.collections.filter(k => !k.takesPart && !own.value))
const problems = computed(() => props.connection.collections.reduce((n, k) => n + k.problems, 0))
const unknown = computed(() => [...new Set(props.connection.collections.flatMap(k => k.unknownStatuses))])

const about = computed(() =>
  [
    props.connection.place,
    props.connection.accountName && props.connection.accountName !== props.connection.name
      ? props.connection.accountName
      : '',
    props.connection.owner && props.connection.owner !== props.connection.accountName
      ? `of ${props.connection.owner}`
      : '',
  ]
    .filter(Boolean)
    .join(' · '),
)
const comesIn = computed(() => {
  const { scope, people, unmatched } = props.connection
  const what =
    scope.by === 'picked'
      ? 'Comes in: only items picked one by one'
      : scope.filter.length === 0
        ? 'Comes in: everything'
        : `Comes in: what is ${filterWords(scope.filter, () => 'some').replace(/^that are /, '')}`
  const parts = [what, scope.future ? 'lists made later too' : '', scope.notes ? '' : 'without notes']
  const who =
    people > 1 && unmatched > 0
      ? `Of its ${people} people, ${unmatched} ${unmatched === 1 ? 'is' : 'are'} no member here`
      : ''
  return `${parts.filter(Boolean).join(', ')}.${who ? ` ${who}.` : ''}`
})
const told = computed(() =>
  own.value
    ? ''
    : props.connection.subscribed
      ? 'Updates at once.'
      : props.connection.kind === 'ics-feed'
        ? 'It is read as often as it asks to be.'
        : 'Checked every few seconds, more often when something changes.',
)

function choose(collection: Collection, takesPart: boolean): void {
  const ids = props.connection.collections
    .filter(c => (c.id === collection.id ? takesPart : c.takesPart))
    .map(c => c.remoteId)
  const words = takesPart
    ? `${collection.name} takes part.`
    : `${collection.name} no longer takes part. Nothing was deleted there.`
  void tell(
    answer(() => api.connections[':id'].collections.$put({ param: param.value, json: { takesPart: ids } })),
    words,
  )
}
const look = (): Promise<boolean> =>
  tell(
    answer(() => api.connections[':id'].look.$post({ param: param.value })),
    `Looking at ${props.connection.name} now.`,
  )
const pause = (paused: boolean): Promise<boolean> =>
  tell(
    answer(() => api.connections[':id'].paused.$put({ param: param.value, json: { paused } })),
    paused
      ? `${props.connection.name} is paused. What you change for it waits.`
      : `${props.connection.name} goes on.`,
  )
const stopImport = (): Promise<boolean> =>
  tell(
    answer(() => api.connections[':id']['cancel-import'].$post({ param: param.value })),
    'The import is stopped. What had come in of those lists is gone again here.',
  )
const compare = () =>
  tell(
    answer(() => api.connections[':id'].compare.$post({ param: param.value })),
    'Everything it holds is compared now. What was missed comes in.',
  )
async function refresh(): Promise<void> {
  await tell(
    answer(() => api.connections[':id'].refresh.$post({ param: param.value })).then(({ found }) =>
      say({ text: found.length > 0 ? `New there: ${found.join(', ')}.` : 'Nothing new there.' }),
    ),
    '',
  )
}
</script>

<template>
  <section class="sheet connection" :aria-label="connection.name">
    <header>
      <div class="who">
        <h2>{{ connection.name }}</h2>
        <span class="quiet about">{{ about || 'In Amber Loom itself' }}</span>
      </div>
      <HealthLine :health="health" />
      <div v-if="connection.tends" class="do">
        <Button v-if="connection.state === 'signed-out'" type="primary" @click="emit('open', 'again')"
          >Sign in again</Button
        >
        <Button v-if="coming" @click="stopImport">Stop the import</Button>
        <Button v-if="connection.paused" type="primary" @click="pause(false)">Resume</Button>
        <Button v-else class="with-icon" @click="look"><PhArrowsClockwise :size="15" /> Sync now</Button>
        <Dropdown v-if="!own" :trigger="['click']" placement="bottomRight">
          <Button :aria-label="`More for ${connection.name}`"
            ><PhDotsThree :size="18" weight="bold"
          /></Button>
          <template #overlay>
            <Menu>
              <MenuItem key="settings"
                ><RouterLink :to="`/connections/${connection.id}/settings`"
                  >What comes in and what it means</RouterLink
                ></MenuItem
              >
              <MenuItem key="where" @click="emit('open', 'where')">Where is it?</MenuItem>
              <MenuItem key="compare" @click="compare">Compare everything with it</MenuItem>
              <MenuItem key="refresh" @click="refresh">Ask it for new lists and people</MenuItem>
              <MenuItem v-if="connection.kind === 'caldav'" key="make" @click="emit('open', 'make')"
                >Make a calendar there</MenuItem
              >
              <MenuDivider />
              <MenuItem v-if="connection.signIn !== 'none'" key="again" @click="emit('open', 'again')"
                >Sign in again</MenuItem
              >
              <MenuItem v-if="!connection.paused" key="pause" @click="pause(true)">Pause</MenuItem>
              <MenuItem key="leave" danger @click="emit('open', 'disconnect')">Disconnect</MenuItem>
            </Menu>
          </template>
        </Dropdown>
      </div>
    </header>
    <div v-if="coming" class="import">
      <progress
        :value="coming.total === null ? undefined : coming.done"
        :max="coming.total ?? 1"
        aria-label="Import"
      />
      <span class="quiet"
        >{{ coming.done }}{{ coming.total === null ? ' so far' : ` of ${coming.total}` }}</span
      >
    </div>
    <div v-else-if="ended" class="import">
      <progress value="1" max="1" aria-label="Import" />
      <span class="quiet"
        >all {{ ended.items }} are in, after {{ Math.max(1, Math.round(ended.took / 1000)) }} s</span
      >
    </div>
    <ul class="collections">
      <CollectionLine
        v-for="k in inPart"
        :key="k.id"
        :collection="k"
        :now="now"
        :fixed="own || !connection.tends"
        :shared="!connection.tends"
        :within="within(k)"
        @set="on => choose(k, on)"
      />
      <template v-if="rest">
        <CollectionLine
          v-for="k in notInPart"
          :key="k.id"
          :collection="k"
          :now="now"
          :fixed="false"
          :within="within(k)"
          @set="on => choose(k, on)"
        />
      </template>
    </ul>
    <footer v-if="!own && connection.tends">
      <span class="quiet">{{ comesIn }} {{ told }}</span>
      <button
        v-if="notInPart.length > 0"
        type="button"
        class="plain link"
        :aria-expanded="rest"
        @click="rest = !rest"
      >
        {{ rest ? 'Hide' : 'Show' }} {{ notInPart.length }} that
        {{ notInPart.length === 1 ? 'is' : 'are' }} not synced
      </button>
      <button type="button" class="plain link" :aria-expanded="day" @click="day = !day">Last 24 hours</button>
      <button v-if="problems > 0" type="button" class="plain link wrong" @click="emit('open', 'problems')">
        {{ problems }} {{ problems === 1 ? 'item' : 'items' }} not understood
      </button>
      <RouterLink v-if="unknown.length > 0" class="wrong" :to="`/connections/${connection.id}/settings`"
        >{{ unknown.length === 1 ? `“${unknown[0]}” has` : `${unknown.length} statuses have` }} no meaning
        yet</RouterLink
      >
    </footer>
    <div v-if="day" class="day"><DayChart :id="connection.id" /></div>
  </section>
</template>

<style scoped>
.connection {
  margin-bottom: 10px;
}
header {
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 1.35fr) minmax(196px, auto);
  gap: 16px;
  align-items: center;
  padding: 9px 14px;
  border-bottom: 1px solid var(--warp);
}
.who {
  display: grid;
  gap: 1px;
  min-width: 0;
}
.about {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
  font-size: 13px;
}
.do {
  display: flex;
  justify-content: flex-end;
  flex-wrap: wrap;
  gap: 8px;
}
.collections {
  list-style: none;
  margin: 0;
  padding: 6px 14px;
  display: grid;
  grid-template-columns: repeat(2, minmax(0, 1fr));
  gap: 0 28px;
}
/* Of a hand’s breadth, whatever the browser draws elsewhere. */
.import {
  display: flex;
  align-items: center;
  gap: 10px;
  padding: 6px 14px 0;
  font-size: 13px;
}
progress {
  appearance: none;
  flex: 1;
  height: 6px;
  border: 0;
  border-radius: 3px;
  background: var(--warp);
  overflow: hidden;
}
progress::-webkit-progress-bar {
  background: var(--warp);
}
progress::-webkit-progress-value {
  background: var(--amber);
}
progress::-moz-progress-bar {
  background: var(--amber);
}
footer {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 18px;
  padding: 0 14px 8px;
  font-size: 13px;
}
.link {
  color: var(--amber);
  text-decoration: underline;
}
.wrong {
  color: var(--clay);
}
.day {
  padding: 8px 14px 12px;
  border-top: 1px solid var(--warp);
}
@media (max-width: 800px) {
  header,
  .collections {
    grid-template-columns: minmax(0, 1fr);
  }
  header {
    gap: 8px;
  }
}
</style>
