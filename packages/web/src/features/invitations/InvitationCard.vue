<script setup lang="ts">
import { longDayWords, whole } from '@loom/core/view'
import { useQuery } from '@pinia/colada'
import { Input } from 'ant-design-vue'
import { computed, ref } from 'vue'
import { answer, api } from '../../api/client.ts'
import type { Answer, Invitation } from '../../stores/invitations.ts'
import { say as tell } from '../../stores/messages.ts'
import { useSession } from '../../stores/session.ts'
import { useAttempt } from '../../ui/attempt.ts'
import { clockWords } from '../../ui/telling.ts'
import { meets } from './meets.ts'

/** One invitation: what it says, what it would meet, and one's answer. */
const props = defineProps<{
  invitation: Invitation
  say: (id: string, said: Answer, comment: string) => Promise<boolean>
  putAway: (id: string) => Promise<void>
}>()
const session = useSession()
const zone = computed(() => session.person?.zone ?? 'UTC')
const { attempt, busy, reason } = useAttempt()
const comment = ref('')

const ANSWERS: { value: Answer; label: string; done: string }[] = [
  { value: 'accepted', label: 'I come', done: 'you come' },
  { value: 'tentative', label: 'Perhaps', done: 'perhaps' },
  { value: 'declined', label: 'I do not come', done: 'you do not come' },
]
const span = computed(() => {
  const { when } = props.invitation
  return when && 'fromMs' in when ? when : null
})
const clocks = computed(() =>
  span.value
    ? `${clockWords(span.value.fromMs, zone.value)}–${clockWords(span.value.toMs, zone.value)}`
    : 'All day',
)
const around = useQuery({
  key: () => ['cloth', 'around', props.invitation.when?.day ?? ''],
  query: () => answer(() => api.cloth.$get({ query: { from: props.invitation.when?.day ?? '', days: '2' } })),
  enabled: () => span.value !== null && !props.invitation.isCalledOff,
})
const met = computed(() => {
  const data = around.data.value
  return span.value && data ? meets(data.items.map(whole), data.me, span.value, props.invitation.title) : null
})
const others = computed(() => {
  const me = session.person?.email.toLowerCase()
  return props.invitation.guests.filter(g => g.email !== me).map(g => g.name || g.email)
})
const guestWords = computed(() => {
  const shown = others.value.slice(0, 4)
  const { guestCount, namesMe } = props.invitation
  const more = guestCount - (namesMe ? 1 : 0) - shown.length
  return `${shown.join(', ')}${more > 0 ? ` and ${more} more` : ''}`
})
const origin = computed(() => {
  const { organizer, sender, isProven } = props.invitation
  const by = organizer ?? sender
  if (isProven) return `From ${by}`
  return by === sender ? `From ${by}, which is not proven` : `From ${by}; brought by ${sender}`
})
async function respond(said: (typeof ANSWERS)[number]): Promise<void> {
  let isTold = false
  const done = await attempt(async () => {
    isTold = await props.say(props.invitation.id, said.value, comment.value.trim())
  })
  if (!done) return
  comment.value = ''
  tell({ text: `${props.invitation.title}: ${said.done}.${isTold ? ' They are told by mail.' : ''}` })
}
async function takeOut(): Promise<void> {
  const done = await attempt(() => props.say(props.invitation.id, 'declined', '').then(() => undefined))
  if (done) tell({ text: `${props.invitation.title}: called off, and out of your plan.` })
}
const away = (): Promise<boolean> => attempt(() => props.putAway(props.invitation.id))
</script>

<template>
  <article class="sheet card" :aria-label="invitation.title" :class="{ off: invitation.isCalledOff }">
    <div class="time">
      <strong>{{ invitation.when ? longDayWords(invitation.when.day) : 'No day' }}</strong>
      <span>{{ clocks }}</span>
      <span v-if="invitation.repeats" class="quiet">and again</span>
      <span v-if="invitation.isOneDate" class="quiet">one date of a series</span>
    </div>
    <div class="what">
      <h3>{{ invitation.title }}</h3>
      <p v-if="invitation.location">{{ invitation.location }}</p>
      <p class="quiet">{{ origin }}</p>
      <p v-if="others.length > 0" class="quiet">With {{ guestWords }}</p>
      <details v-if="invitation.notes">
        <summary>What they wrote</summary>
        <p class="notes">{{ invitation.notes }}</p>
      </details>
      <p v-if="invitation.isCalledOff" class="clay">
        Called off{{
          invitation.isKept ? '. It still stands in your plan, as the mail is not proven to be theirs.' : '.'
        }}
      </p>
      <p v-else-if="invitation.isAnew" class="clay">
        It was changed since you answered. Your plan follows once you answer again.
      </p>
      <p v-if="met && met.length > 0" class="met">
        Meets
        <template v-for="(m, n) in met.slice(0, 3)" :key="m.key"
          >{{ n > 0 ? ', ' : ''
          }}<RouterLink :to="{ path: '/cloth', query: { at: invitation.when?.day, item: m.key } }">{{
            m.title
          }}</RouterLink></template
        >{{ met.length > 3 ? ` and ${met.length - 3} more` : '' }}
      </p>
      <p v-else-if="met" class="moss">Free in your plan</p>
    </div>
    <div class="answer">
      <template v-if="invitation.isCalledOff">
        <button v-if="invitation.isKept" type="button" class="push primary" :disabled="busy" @click="takeOut">
          Take it out of my plan
        </button>
      </template>
      <template v-else-if="invitation.namesMe">
        <div class="three" role="group" :aria-label="`Answer to ${invitation.title}`">
          <button
            v-for="a in ANSWERS"
            :key="a.value"
            type="button"
            class="push small"
            :class="{ primary: invitation.answer === a.value }"
            :aria-pressed="invitation.answer === a.value"
            :disabled="busy"
            @click="respond(a)"
          >
            {{ a.label }}
          </button>
        </div>
        <Input
          v-model:value="comment"
          size="small"
          :maxlength="1000"
          placeholder="A word with your answer"
          :aria-label="`A word with your answer to ${invitation.title}`"
        />
      </template>
      <p v-else class="quiet">It names none of your addresses, so it cannot be answered from here.</p>
      <button type="button" class="plain link" :disabled="busy" @click="away">Put away</button>
      <p v-if="reason" class="wrong" role="alert">{{ reason }}</p>
    </div>
  </article>
</template>

<style scoped>
.card {
  display: grid;
  grid-template-columns: 180px minmax(0, 1fr) 270px;
  gap: 4px 18px;
  padding: 12px 18px;
  margin-bottom: 10px;
}
.time {
  display: grid;
  align-content: start;
  gap: 2px;
}
.what h3 {
  font-size: 15px;
  margin: 0 0 2px;
  overflow-wrap: anywhere;
}
.what p {
  margin: 0;
  overflow-wrap: anywhere;
}
.off h3 {
  text-decoration: line-through;
}
.notes {
  white-space: pre-line;
}
.clay {
  color: var(--clay);
}
.moss {
  color: var(--moss);
}
.answer {
  display: grid;
  gap: 8px;
  align-content: start;
}
.three {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
}
.answer p {
  margin: 0;
}
.link {
  justify-self: start;
  color: var(--amber);
  text-decoration: underline;
}
@media (max-width: 800px) {
  .card {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
