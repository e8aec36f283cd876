<script setup lang="ts">
import { PhFileArrowDown, PhFileArrowUp, PhPlus } from '@phosphor-icons/vue'
import { Button } from 'ant-design-vue'
import { computed, onBeforeUnmount, onMounted, ref } from 'vue'
import { useRouter } from 'vue-router'
import FilesIn from '../files/FilesIn.vue'
import FilesOut from '../files/FilesOut.vue'
import ConnectionSheet, { type Dialog } from './ConnectionSheet.vue'
import DisconnectDialog from './DisconnectDialog.vue'
import IntakeDoors from './IntakeDoors.vue'
import MakeCalendar from './MakeCalendar.vue'
import ProblemsDialog from './ProblemsDialog.vue'
import SignInAgain from './SignInAgain.vue'
import { answer, api } from '../../api/client.ts'
import { useAttempt } from '../../ui/attempt.ts'
import { agoWords, useConnections, useTicking } from '../../stores/connections.ts'
import WhereIsIt from './WhereIsIt.vue'

const router = useRouter()
const { connections, now: serverNow, halted, loaded, trouble, refresh } = useConnections()
const now = useTicking(() => serverNow.value)

const dialog = ref<{ kind: Dialog; id: string } | null>(null)
const at = computed(() => connections.value.find(c => c.id === dialog.value?.id) ?? null)
const kind = computed(() => (at.value ? dialog.value?.kind : null))
const close = (): void => void (dialog.value = null)

const files = ref<'in' | 'out' | null>(null)
const dropped = ref<File | null>(null)
const over = ref(false)
const outside = computed(() => connections.value.filter(c => c.kind !== 'own'))
const own = computed(() => connections.value.filter(c => c.kind === 'own'))

const { busy, attempt } = useAttempt()
async function resume(): Promise<void> {
  await attempt(() => answer(() => api.connections.resume.$post()))
  await refresh()
}

function drop(event: DragEvent): void {
  over.value = false
  const [file] = event.dataTransfer?.files ?? []
  if (!file) return
  dropped.value = file
  files.value = 'in'
}
function leave(event: DragEvent): void {
  if (!(event.currentTarget as HTMLElement).contains(event.relatedTarget as Node | null)) over.value = false
}
function closeFiles(): void {
  files.value = null
  dropped.value = null
}

/** That everything is in step is no change that is announced; how long ago it was is still shown. */
const FRESH_MS = 5000
let timer = 0
onMounted(() => (timer = window.setInterval(() => void refresh(), FRESH_MS)))
onBeforeUnmount(() => clearInterval(timer))
</script>

<template>
  <main
    class="page"
    :class="{ over }"
    @dragover.prevent="over = $event.dataTransfer?.types.includes('Files') ?? false"
    @dragleave="leave"
    @drop.prevent="drop"
  >
    <div class="page-head">
      <h1>Connections</h1>
      <span class="quiet about">Where your events and tasks live. They stay there.</span>
      <span class="spacer" />
      <Button class="with-icon" @click="files = 'in'"><PhFileArrowUp :size="16" /> Import a file</Button>
      <Button class="with-icon" @click="files = 'out'"><PhFileArrowDown :size="16" /> Export a file</Button>
      <Button type="primary" class="with-icon" @click="router.push('/connections/new')"
        ><PhPlus :size="15" /> Connect a service</Button
      >
    </div>
    <p v-if="over" class="drop" role="status">
      Drop to see what is in the file. Nothing is imported before you say so.
    </p>
    <p v-if="trouble" role="alert">{{ trouble }}</p>
    <div v-if="halted" class="halted" role="alert">
      <span
        >{{ halted.reason }} Since {{ agoWords(halted.since, now) }}. What you see may be out of date.</span
      >
      <Button :loading="busy" @click="resume">Resume sync</Button>
    </div>
    <div v-if="loaded && outside.length === 0" class="sheet empty">
      <h2>Nothing connected yet</h2>
      <p>
        Connect your calendars first, then your task managers. You say what comes in before anything does. Or
        drop a calendar file or a table anywhere on this page.
      </p>
      <Button type="primary" @click="router.push('/connections/new')">Connect a calendar</Button>
    </div>
    <ConnectionSheet
      v-for="c in outside"
      :key="c.id"
      :connection="c"
      :now="now"
      @open="d => (dialog = { kind: d, id: c.id })"
    />
    <ConnectionSheet
      v-for="c in own"
      :key="c.id"
      :connection="c"
      :now="now"
      @open="d => (dialog = { kind: d, id: c.id })"
    />
    <IntakeDoors v-if="loaded" :now="now" />
    <template v-if="at">
      <SignInAgain v-if="kind === 'again'" :connection="at" @close="close" />
      <ProblemsDialog v-if="kind === 'problems'" :connection="at" @close="close" />
      <WhereIsIt
        v-if="kind === 'where'"
        :connection="at"
        @close="close"
        @problems="dialog = { kind: 'problems', id: at.id }"
      />
      <DisconnectDialog v-if="kind === 'disconnect'" :connection="at" @close="close" />
      <MakeCalendar v-if="kind === 'make'" :connection="at" @close="close" />
    </template>
    <FilesIn v-if="files === 'in'" :dropped="dropped" :connections="connections" @close="closeFiles" />
    <FilesOut v-if="files === 'out'" :connections="connections" @close="closeFiles" />
  </main>
</template>

<style scoped>
.page {
  min-height: calc(100vh - 48px);
  padding-bottom: 110px;
}
.page.over {
  outline: 2px dashed var(--amber);
  outline-offset: -6px;
}
.drop {
  padding: 8px 14px;
  background: var(--amber-wash);
  border-radius: 3px;
}
.halted {
  display: flex;
  gap: 16px;
  align-items: center;
  justify-content: space-between;
  padding: 10px 14px;
  margin-bottom: 10px;
  border: 1px solid var(--clay);
  border-radius: 3px;
}
.empty {
  padding: 28px;
  margin-bottom: 10px;
}
@media (max-width: 900px) {
  .about {
    display: none;
  }
}
</style>
