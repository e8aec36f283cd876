<script setup lang="ts">
import { PhX } from '@phosphor-icons/vue'
import { useQuery } from '@pinia/colada'
import { AutoComplete, Input } from 'ant-design-vue'
import { computed, ref } from 'vue'
import { dayAt, dayWords, type Edit, Guest, guestFrom, zonedAt } from '@loom/core/view'
import { answer, api } from '../../../api/client.ts'
import { useAttempt } from '../../../ui/attempt.ts'
import ChooseOne from '../../../ui/ChooseOne.vue'
import { clockWords } from '../../../ui/telling.ts'
import type { ItemDetails } from '../data/details.ts'

/** Who is invited to an event, what they have answered, and who else may come. */
const props = defineProps<{
  /** Of its event. */
  item: string
  guests: NonNullable<ItemDetails['guests']>
  mayChange: boolean
  /** Whether to say what counts of what they wrote. */
  maySettle: boolean
  zone: string
}>()
const emit = defineEmits<{ edit: [edit: Edit]; settled: [] }>()
type Invited = ItemDetails['guests'] & object
type One = Invited['guests'][number]

const ANSWERS: Record<One['answer'], string> = {
  accepted: 'comes',
  declined: 'does not come',
  tentative: 'may come',
  none: 'has not answered',
}
const SAYS: Record<One['answer'], string> = { ...ANSWERS, none: 'has answered' }
const NOTED: { value: One['answer']; label: string }[] = [
  { value: 'accepted', label: 'comes' },
  { value: 'tentative', label: 'may come' },
  { value: 'declined', label: 'does not come' },
  { value: 'none', label: 'has not answered' },
]
const team = useQuery({ key: ['team'], query: () => answer(() => api.team.$get()) })
const others = computed(() =>
  (team.data.value?.members ?? []).filter(
    m => m.id !== team.data.value?.me && !props.guests.guests.some(g => g.email === m.email.toLowerCase()),
  ),
)
/** A calendar may name rooms and people in other ways than by mail. */
const isAddress = (g: One): boolean => Guest.shape.email.safeParse(g.email).success
const text = ref('')
const wrong = ref(false)
const options = computed(() =>
  others.value
    .filter(m => `${m.name} ${m.email}`.toLowerCase().includes(text.value.trim().toLowerCase()))
    .map(m => ({ value: m.email, label: `${m.name} · ${m.email}` })),
)
const nameOf = ({ name, email }: One): string =>
  name || (team.data.value?.members.find(m => m.email.toLowerCase() === email)?.name ?? email)

const toldWords = computed(() => {
  if (props.guests.meeting === null)
    return 'They are told by the calendar’s own service, where it sends invitations.'
  return team.data.value?.mails === false
    ? 'Nobody is told: no mail server is set up for Amber Loom.'
    : 'They are told by mail, some seconds after you leave off: of the invitation, of a new time or name, and when it is called off.'
})

function add(said: string): void {
  const guest = guestFrom(said, others.value)
  wrong.value = guest === null && said.trim() !== ''
  if (!guest) return
  emit('edit', { do: 'invite', add: [guest], drop: [] })
  text.value = ''
}
const note = (g: One, said: One['answer']): void =>
  emit('edit', { do: 'note-answers', answers: [{ email: g.email, answer: said }] })

const { attempt, busy, reason } = useAttempt()
type Said = Invited['answers'][number]
const byEmail = (email: string): string =>
  nameOf(props.guests.guests.find(g => g.email === email) ?? { name: '', email, answer: 'none' })
function wordsOf({ answer: said, recurrence, proposed }: Said): string {
  if (proposed)
    return `proposes ${dayWords(dayAt(proposed.fromMs, props.zone))}, ${clockWords(proposed.fromMs, props.zone)}–${clockWords(proposed.toMs, props.zone)}`
  const date = /^(\d{4})-?(\d\d)-?(\d\d)/.exec(recurrence)
  return `${SAYS[said]}${date ? ` on ${dayWords(`${date[1]}-${date[2]}-${date[3]}`)}` : ''}`
}
async function settle({ email, recurrence, proposed }: Said, counts: boolean): Promise<void> {
  const json = { email, recurrence, counts: counts && !proposed }
  const done = await attempt(() =>
    answer(() => api.cloth[':key'].answers.$post({ param: { key: props.item }, json })),
  )
  if (done && counts && proposed) {
    const minutes = Math.round((proposed.toMs - proposed.fromMs) / 60_000)
    const most = Math.min(1440, Math.max(5, minutes))
    emit('edit', { do: 'place', start: zonedAt(proposed.fromMs, props.zone), minutes: most })
  }
  if (done) emit('settled')
}
const drop = ({ name, email }: One): void => emit('edit', { do: 'invite', add: [], drop: [{ name, email }] })
</script>

<template>
  <ul v-if="guests.guests.length > 0">
    <li v-for="g in guests.guests" :key="g.email">
      <span :title="g.email">{{ nameOf(g) }}</span>
      <ChooseOne
        v-if="mayChange && guests.meeting"
        class="answer"
        :model-value="g.answer"
        :name="`Answer of ${nameOf(g)}`"
        :options="NOTED"
        @update:model-value="said => said && note(g, said)"
      />
      <span v-else class="quiet">{{ ANSWERS[g.answer] }}</span>
      <button
        v-if="mayChange && !guests.fixed && isAddress(g)"
        type="button"
        class="plain drop"
        :aria-label="`Do not invite ${nameOf(g)}`"
        @click="drop(g)"
      >
        <PhX :size="14" />
      </button>
    </li>
  </ul>
  <ul v-if="guests.answers.length > 0" aria-label="What they wrote">
    <li v-for="a in guests.answers" :key="`${a.email} ${a.recurrence} ${a.waits}`" class="said">
      <p>
        {{ byEmail(a.email) }} {{ wordsOf(a) }}<q v-if="a.comment">{{ a.comment }}</q>
      </p>
      <p v-if="a.waits && maySettle" class="quiet">
        {{ a.proposed ? 'Another time than yours.' : 'It is not proven that this mail is theirs.' }}
        <button
          v-if="!a.proposed || mayChange"
          type="button"
          class="plain link"
          :disabled="busy"
          @click="settle(a, true)"
        >
          {{ a.proposed ? 'Move it there' : 'It counts' }}
        </button>
        <button type="button" class="plain link" :disabled="busy" @click="settle(a, false)">Leave it</button>
      </p>
    </li>
  </ul>
  <p v-if="reason" class="wrong" role="alert">{{ reason }}</p>
  <template v-if="mayChange && !guests.fixed">
    <AutoComplete
      v-model:value="text"
      class="add"
      :options="options"
      :default-active-first-option="false"
      @select="(email: unknown) => add(String(email))"
    >
      <Input
        aria-label="Invite somebody"
        placeholder="Somebody of the team, or an address"
        :maxlength="300"
        @keydown.enter="add(text)"
      />
    </AutoComplete>
    <p v-if="wrong" class="wrong" role="alert">Write a mail address, or the name of somebody of the team.</p>
    <p v-else-if="guests.guests.length > 0" class="quiet">
      {{ toldWords }}
    </p>
  </template>
  <p v-else-if="guests.guests.length > 0 && guests.fixed" class="quiet">{{ guests.fixed }}</p>
  <p v-else-if="guests.guests.length === 0" class="quiet">nobody</p>
</template>

<style scoped>
ul {
  margin: 0 0 4px;
  padding: 0;
  list-style: none;
}
li {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 8px;
  align-items: center;
  min-height: 28px;
}
li span:first-child {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.answer {
  margin-left: auto;
  width: 152px;
  flex: none;
}
.said {
  display: block;
}
.said q {
  margin-left: 6px;
}
.link {
  color: var(--amber);
  text-decoration: underline;
  margin-left: 8px;
}
.drop {
  padding: 4px 6px;
  color: var(--husk);
}
.add {
  width: 100%;
}
p {
  margin: 4px 0 0;
}
.wrong {
  color: var(--clay);
}
</style>
