<script setup lang="ts">
import { PhX } from '@phosphor-icons/vue'
import { useQuery } from '@pinia/colada'
import { AutoComplete, Input } from 'ant-design-vue'
import { computed, ref } from 'vue'
import { type Edit, Guest, guestFrom } from '@loom/core/view'
import { answer, api } from '../../../api/client.ts'
import type { ItemDetails } from '../data/details.ts'

/** Who is invited to an event, what they have answered, and who else may come. */
const props = defineProps<{ guests: NonNullable<ItemDetails['guests']>; mayChange: boolean }>()
const emit = defineEmits<{ edit: [edit: Edit] }>()
type Invited = ItemDetails['guests'] & object
type One = Invited['guests'][number]

const ANSWERS: Record<One['answer'], string> = {
  accepted: 'comes',
  declined: 'does not come',
  tentative: 'may come',
  none: '',
}
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

function add(said: string): void {
  const guest = guestFrom(said, others.value)
  wrong.value = guest === null && said.trim() !== ''
  if (!guest) return
  emit('edit', { do: 'invite', add: [guest], drop: [] })
  text.value = ''
}
const drop = ({ name, email }: One): void => emit('edit', { do: 'invite', add: [], drop: [{ name, email }] })
</script>

<template>
  <ul v-if="guests.guests.length > 0">
    <li v-for="g in guests.guests" :key="g.email">
      <span :title="g.email">{{ nameOf(g) }}</span>
      <span v-if="ANSWERS[g.answer]" class="quiet">{{ ANSWERS[g.answer] }}</span>
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
      They are told by the calendar’s own service, where it sends invitations.
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
  gap: 8px;
  align-items: center;
  min-height: 28px;
}
li span:first-child {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.drop {
  margin-left: auto;
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
