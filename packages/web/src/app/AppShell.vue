<script setup lang="ts">
import {
  PhBell,
  PhEnvelopeSimple,
  PhMoon,
  PhSignOut,
  PhSlidersHorizontal,
  PhSun,
  PhSwatches,
} from '@phosphor-icons/vue'
import { useQueryCache } from '@pinia/colada'
import { useElementBounding } from '@vueuse/core'
import { computed, defineAsyncComponent, onBeforeUnmount, onMounted, ref, watch, watchEffect } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { useLive } from '../stores/live.ts'
import { useLiveState } from '../stores/live-state.ts'
import { healthOf, useConnections } from '../stores/connections.ts'
import CommandField from './CommandField.vue'
import FocusSign from './FocusSign.vue'
import RunningClock from './RunningClock.vue'
import FoldOut from '../ui/FoldOut.vue'
import LoomMark from '../ui/LoomMark.vue'
import { useImports } from '../stores/imports.ts'
import { useMine } from '../stores/mine.ts'
import { useMessages } from '../stores/messages.ts'
import { useRequests } from '../features/team/use-requests.ts'
import { usePresent } from '../stores/present.ts'
import { useSession } from '../stores/session.ts'
import { useKeptUpMessages } from './use-kept-up-messages.ts'
import { useReminders } from './use-reminders.ts'
import { clock } from '../ui/telling.ts'
import { themeName } from '../ui/theme.ts'
import { useInvitations } from '../stores/invitations.ts'
import { partInOurTheme } from '../ui/in-our-theme.ts'

/** Seldom needed, so they are fetched when they are. */
const WorkspaceChoice = defineAsyncComponent(() => import('../features/team/WorkspaceChoice.vue'))
const ReminderCards = defineAsyncComponent(() => import('../features/reminders/ReminderCards.vue'))
const SignInAgain = partInOurTheme(() => import('../features/sign-in/SignInAgain.vue'))
const session = useSession()
const dark = computed(() => themeName.value === 'peat')
const route = useRoute()
const router = useRouter()
const cache = useQueryCache()
const live = useLive()
const liveState = useLiveState()
const { connections, now } = useConnections()
const mine = useMine()
const { forMe } = useRequests()
watch(connections, useImports().look, { immediate: true })
const reminders = useReminders(() => connections.value.length > 0)
const { open: invited } = useInvitations(() => connections.value.length > 0)
const invitedWords = computed(() =>
  invited.value.length === 1
    ? 'An invitation waits for your answer'
    : `${invited.value.length} invitations wait for your answer`,
)
useKeptUpMessages(() => connections.value.length > 0)
watchEffect(() => (clock.value = mine.settings.value.clock))

onMounted(live.start)
onBeforeUnmount(live.stop)

const SCREENS = [
  { to: '/cloth', name: 'Cloth' },
  { to: '/day', name: 'Day' },
  { to: '/rules', name: 'Rules' },
  { to: '/connections', name: 'Connections' },
  { to: '/team', name: 'Team' },
  { to: '/time', name: 'Time report' },
  { to: '/journal', name: 'Journal' },
]

/** Messages stand in the band where it has room for them, else below it at the right; see MessageStack. */
const between = ref<HTMLElement | null>(null)
const { left, width } = useElementBounding(between)
const ROOM_PX = 220
const MESSAGE = ['--messages-left', '--messages-width', '--messages-top'] as const
watchEffect(() => {
  const { style } = document.documentElement
  const given =
    width.value < ROOM_PX ? ['100vw', '400px', '54px'] : [`${left.value}px`, `${width.value}px`, '4px']
  for (const [i, name] of MESSAGE.entries()) style.setProperty(name, given[i] ?? '')
})
onBeforeUnmount(() => MESSAGE.forEach(name => document.documentElement.style.removeProperty(name)))

const initialsOf = (name: string): string =>
  name
    .split(' ')
    .map(part => part[0] ?? '')
    .slice(0, 2)
    .join('')
const initials = computed(() => initialsOf(session.person?.name ?? ''))
const present = usePresent()
const MOST_NAMED = 3
const alsoHere = computed(() => {
  const names = present.others.map(o => o.name)
  return {
    shown: names.slice(0, MOST_NAMED).map(name => ({ name, initials: initialsOf(name) })),
    more: Math.max(0, names.length - MOST_NAMED),
    words: `${names.join(', ')} ${names.length === 1 ? 'has' : 'have'} some of these days open`,
  }
})

/** One line that tells the truth about every connection. */
const health = computed(() => {
  if (liveState.stream === 'lost') return { text: 'Not connected to the server; trying again', well: false }
  const troubled = connections.value.filter(c => healthOf(c, now.value).tone === 'wrong' || c.state !== 'ok')
  const [first, second] = troubled
  if (first)
    return {
      text: second ? `${troubled.length} connections have trouble` : `${first.name} has trouble`,
      well: false,
    }
  return { text: connections.value.length > 0 ? 'All in step' : 'Nothing connected yet', well: true }
})

async function signOut(): Promise<void> {
  await session.signOut()
  useMessages().forgetUndo()
  live.stop()
  await router.push({ name: 'sign-in' })
}

async function signedInAgain(): Promise<void> {
  live.start()
  await cache.invalidateQueries()
}
watch(
  () => session.expired,
  isExpired => {
    if (!isExpired && session.person) void signedInAgain()
  },
)
</script>

<template>
  <div class="shell">
    <header class="band">
      <RouterLink to="/cloth" class="brand" aria-label="Amber Loom, to the Cloth">
        <LoomMark />
        <span class="name">Amber Loom</span>
      </RouterLink>
      <nav aria-label="Screens">
        <RouterLink
          v-for="s in SCREENS"
          :key="s.to"
          :to="s.to"
          class="screen"
          :class="{ here: `${route.path}/`.startsWith(`${s.to}/`) }"
          >{{ s.name
          }}<span
            v-if="s.to === '/team' && forMe.length > 0"
            class="asked"
            :title="forMe.length === 1 ? 'A request waits for you' : `${forMe.length} requests wait for you`"
            >{{ forMe.length }}</span
          ></RouterLink
        >
      </nav>
      <span ref="between" class="between" />
      <FocusSign :enabled="connections.length > 0" />
      <RunningClock :enabled="connections.length > 0" />
      <CommandField />
      <span
        v-if="session.person?.role === 'reader'"
        class="reader"
        title="You see this workspace and change nothing in it."
        >Reader</span
      >
      <span
        v-if="alsoHere.shown.length > 0"
        class="others"
        role="img"
        :aria-label="alsoHere.words"
        :title="alsoHere.words"
      >
        <span v-for="o in alsoHere.shown" :key="o.name" class="other">{{ o.initials }}</span>
        <span v-if="alsoHere.more > 0">+{{ alsoHere.more }}</span>
      </span>
      <RouterLink
        v-if="invited.length > 0"
        to="/invitations"
        class="invited"
        :aria-label="invitedWords"
        :title="invitedWords"
      >
        <PhEnvelopeSimple :size="16" aria-hidden="true" />
        <span class="asked">{{ invited.length }}</span>
      </RouterLink>
      <RouterLink to="/connections" class="health">
        <span class="bead" :class="{ well: health.well }" aria-hidden="true" />
        {{ health.text }}
      </RouterLink>
      <FoldOut :name="`Account of ${session.person?.name}`" :label="initials" class="account">
        <template #default="{ close }">
          <span class="quiet">{{ session.person?.name }} · {{ session.person?.zone }}</span>
          <WorkspaceChoice @close="close()" />
          <RouterLink to="/me" class="entry" @click="close()">
            <PhSlidersHorizontal :size="16" /> My settings
          </RouterLink>
          <RouterLink to="/reminders" class="entry" @click="close()">
            <PhBell :size="16" /> Reminders
          </RouterLink>
          <RouterLink to="/invitations" class="entry" @click="close()">
            <PhEnvelopeSimple :size="16" /> Invitations{{ invited.length > 0 ? ` (${invited.length})` : '' }}
          </RouterLink>
          <RouterLink to="/categories" class="entry" @click="close()">
            <PhSwatches :size="16" /> Categories
          </RouterLink>
          <button type="button" class="plain entry" @click="themeName = dark ? 'linen' : 'peat'">
            <component :is="dark ? PhSun : PhMoon" :size="16" />
            {{ dark ? 'Light theme, linen' : 'Dark theme, peat' }}
          </button>
          <button type="button" class="plain entry" @click="signOut">
            <PhSignOut :size="16" /> Sign out
          </button>
        </template>
      </FoldOut>
    </header>
    <RouterView />
    <ReminderCards
      v-if="reminders.given.value.length > 0"
      :given="reminders.given.value"
      @done="ids => void reminders.done(ids)"
      @later="(id, againAt) => void reminders.later(id, againAt)"
    />
    <SignInAgain v-if="session.expired" :email="session.person?.email ?? ''" />
  </div>
</template>

<style scoped>
.shell {
  min-height: 100%;
}
.band {
  position: sticky;
  top: 0;
  z-index: 50;
  height: 48px;
  display: flex;
  align-items: center;
  gap: 18px;
  padding: 0 14px;
  background: var(--band);
  color: var(--band-ink);
}
.brand {
  display: flex;
  align-items: center;
  gap: 12px;
  color: inherit;
  text-decoration: none;
}
.name {
  font:
    700 17px 'Bricolage Grotesque Variable',
    sans-serif;
  white-space: nowrap;
}
nav {
  display: flex;
  height: 100%;
  min-width: 0;
  overflow-x: auto;
}
.between {
  flex: 1;
  align-self: stretch;
}
.screen {
  white-space: nowrap;
  display: flex;
  align-items: center;
  padding: 3px 11px 0;
  color: var(--band-quiet);
  text-decoration: none;
  border-bottom: 3px solid transparent;
}
.screen:hover,
.screen.here {
  color: var(--band-ink);
}
.screen.here {
  border-bottom-color: #e8a33d;
}
.others {
  display: flex;
  align-items: center;
  gap: 3px;
  color: var(--band-quiet);
  font-size: 11.5px;
}
.other {
  padding: 1px 5px;
  border: 1px solid var(--band-quiet);
  border-radius: 3px;
}
.asked {
  margin-left: 6px;
  padding: 0 5px;
  border-radius: 2px;
  background: #e8a33d;
  color: #2b211a;
  font-size: 12px;
  font-weight: 700;
}
.health {
  display: flex;
  align-items: center;
  gap: 8px;
  color: var(--band-quiet);
  text-decoration: none;
  font-size: 13px;
  white-space: nowrap;
}
.invited {
  display: flex;
  align-items: center;
  color: var(--band-ink);
}
.reader {
  border: 1px solid var(--band-quiet);
  border-radius: 3px;
  padding: 1px 7px;
  font-size: 12.5px;
}
.bead {
  width: 9px;
  height: 9px;
  background: #f08e78;
  transform: rotate(45deg);
}
.bead.well {
  border-radius: 50%;
  background: #93b96c;
}
.account :deep(.choice) {
  border: 0;
  text-align: center;
  width: 30px;
  height: 30px;
  border-radius: 50%;
  background: #e8a33d;
  color: #2b211a;
  font-weight: 700;
  font-size: 12px;
  flex: none;
}
.account {
  flex: none;
  font-size: 14px;
}
.entry {
  display: flex;
  align-items: center;
  gap: 8px;
  padding: 3px 0;
  color: var(--peat);
  text-decoration: none;
}
.entry:hover {
  text-decoration: underline;
}
@media (min-width: 1000px) {
  nav {
    flex: none;
  }
}
@media (max-width: 1420px) {
  .screen {
    padding-inline: 9px;
  }
}
@media (max-width: 720px) {
  .name,
  .others {
    display: none;
  }
  .health {
    font-size: 0;
    gap: 0;
  }
}
/* All four screens stay in sight on the narrowest telephones; the first of them is where the mark leads. */
@media (max-width: 420px) {
  .band {
    gap: 10px;
    padding: 0 8px;
  }
  .brand {
    display: none;
  }
  .screen {
    padding: 3px 7px 0;
  }
}
</style>
