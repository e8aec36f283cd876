<script setup lang="ts">
import { computed } from 'vue'
import ChooseOne from '../../ui/ChooseOne.vue'
import type { IntakeForm, Member, Someone } from './intake-form.ts'

/** The people of a service and the members they are; unmatched people first. */
const props = defineProps<{ people: Someone[]; members: Member[] }>()
const form = defineModel<IntakeForm>({ required: true })

const memberOf = (id: string): string | null => form.value.people[id] ?? null
/** In the order in which they were found, so that a row does not jump away when it is answered. */
const sorted = computed(() =>
  [...props.people].sort(
    (x, y) => Number(y.me) - Number(x.me) || Number(x.memberId !== null) - Number(y.memberId !== null),
  ),
)
const unmatched = computed(() => props.people.filter(p => memberOf(p.id) === null).length)
const options = computed(() => props.members.map(m => ({ value: m.id, label: m.name })))

function set(id: string, memberId: string | null): void {
  form.value = { ...form.value, people: { ...form.value.people, [id]: memberId } }
}
</script>

<template>
  <div>
    <p role="status">
      {{ people.length - unmatched }} of {{ people.length }} are members here<template v-if="unmatched > 0"
        >; {{ unmatched }} {{ unmatched === 1 ? 'is' : 'are' }} not, and their tasks come in all the
        same</template
      >.
    </p>
    <ul>
      <li v-for="p in sorted" :key="p.id">
        <span class="who">
          <b>{{ p.name }}</b>
          <span v-if="p.me" class="me">you, says the service</span>
          <span class="quiet">{{ p.email ?? p.id }}</span>
        </span>
        <ChooseOne
          :model-value="memberOf(p.id)"
          :name="`Who is ${p.name}`"
          :options="options"
          none="nobody here"
          @update:model-value="id => set(p.id, id)"
        />
      </li>
    </ul>
  </div>
</template>

<style scoped>
p {
  margin: 0 0 8px;
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
  max-width: 640px;
}
li {
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 220px);
  align-items: center;
  gap: 12px;
  padding: 4px 0;
}
.who {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 10px;
  align-items: baseline;
}
.me {
  padding: 0 6px;
  border-radius: 3px;
  background: var(--amber-wash);
}
</style>
