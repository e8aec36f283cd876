<script setup lang="ts">
import { type Meaning, type TaskStatus } from '@loom/core/view'
import { computed } from 'vue'
import ChooseOne from '../../ui/ChooseOne.vue'
import SentenceChoice from '../../ui/SentenceChoice.vue'
import { hasTerms, type IntakeForm, meaningOf, type Offered, sameTerms, statusesOf } from './intake-form.ts'
import { STATUS_CHOICES } from '../../ui/status-choices.ts'

/** What the service's own words mean here: every status, every priority, and which column is what. */
const props = defineProps<{ offered: Offered[] }>()
const form = defineModel<IntakeForm>({ required: true })

const groups = computed(() =>
  sameTerms(props.offered.filter(o => o.whyNot === null && form.value.takesPart.includes(o.remoteId))),
)
const meaning = (group: Offered[]): Meaning => {
  const [first] = group
  if (!first) throw new Error('an empty group')
  return meaningOf(form.value, first)
}
function change(group: Offered[], part: Partial<Meaning>): void {
  const next = { ...meaning(group), ...part }
  const meanings = { ...form.value.meanings }
  for (const o of group) meanings[o.remoteId] = next
  form.value = { ...form.value, meanings }
}

const PRIORITIES = [
  { value: 0, label: 'none' },
  { value: 1, label: '1 · highest' },
  { value: 2, label: '2' },
  { value: 3, label: '3 · high' },
  { value: 4, label: '4' },
  { value: 5, label: '5 · medium' },
  { value: 6, label: '6' },
  { value: 7, label: '7 · low' },
  { value: 8, label: '8' },
  { value: 9, label: '9 · lowest' },
]
const DATES = [
  { value: false, label: 'its start is the plan, its due date the deadline' },
  { value: true, label: 'its due date is the plan, its start the deadline' },
]

const terms = (group: Offered[]) => {
  const [first] = group
  return first ? statusesOf(first, meaning(group)) : []
}
const setStatus = (group: Offered[], id: string, means: TaskStatus | null): void => {
  if (!means) return
  const now = meaning(group)
  const write = Object.fromEntries(
    Object.entries(now.write).filter(([status, word]) => word !== id || status === means),
  )
  change(group, { statuses: { ...now.statuses, [id]: means }, write })
}
const known = (group: Offered[], id: string): TaskStatus | null => meaning(group).statuses[id] ?? null
/** What can be written for a status: their words that mean it. */
const writable = (group: Offered[], status: TaskStatus) =>
  terms(group)
    .filter(s => known(group, s.id) === status)
    .map(s => ({ value: s.id, label: s.name }))
const written = (group: Offered[], status: TaskStatus): string | null =>
  meaning(group).write[status] ?? writable(group, status)[0]?.value ?? null
const setWritten = (group: Offered[], status: TaskStatus, word: string | null): void => {
  if (word) change(group, { write: { ...meaning(group).write, [status]: word } })
}
const WRITES: { status: TaskStatus; words: string }[] = [
  { status: 'completed', words: 'When it is completed here, write' },
  { status: 'needs-action', words: 'When it is reopened here, write' },
  { status: 'in-process', words: 'When it is begun here, write' },
  { status: 'cancelled', words: 'When it is cancelled here, write' },
]

function setColumn(group: Offered[], role: string, column: string | null): void {
  const rest = Object.fromEntries(Object.entries(meaning(group).columns).filter(([r]) => r !== role))
  const [first] = group
  const columns = column ? { ...rest, [role]: column } : rest
  if (role !== 'status' || !first) return change(group, { columns })
  // Another column, other words: what they mean is suggested anew.
  const statuses = (column && first.terms.statusesByColumn[column]) || []
  change(group, { columns, statuses: Object.fromEntries(statuses.map(s => [s.id, s.means])), write: {} })
}
const names = (group: Offered[]): string => group.map(o => o.name).join(', ')
const unknown = (group: Offered[]): number =>
  new Set(group.flatMap(o => o.unknown).filter(id => known(group, id) === null)).size
</script>

<template>
  <div>
    <p v-if="groups.length === 0" class="quiet">No task list takes part; there is nothing to say.</p>
    <section v-for="g in groups" :key="names(g)" class="group" :aria-label="names(g)">
      <h3>{{ names(g) }}</h3>
      <p v-if="unknown(g) > 0" class="why">
        {{ unknown(g) }} {{ unknown(g) === 1 ? 'status has' : 'statuses have' }} no meaning yet. Items in
        {{ unknown(g) === 1 ? 'it' : 'them' }} keep the status they had.
      </p>
      <div v-if="g[0] && g[0].terms.roles.length > 0" class="columns">
        <label v-for="r in g[0].terms.roles" :key="r.role">
          <span>{{ r.label }} is the column</span>
          <ChooseOne
            :model-value="meaning(g).columns[r.role] ?? null"
            :name="`${r.label} is the column`"
            :options="r.choices.map(c => ({ value: c.id, label: c.name }))"
            none="none of them"
            @update:model-value="c => setColumn(g, r.role, c)"
          />
        </label>
      </div>
      <div class="halves">
        <table v-if="terms(g).length > 0">
          <caption class="visually-hidden">
            What its statuses mean
          </caption>
          <thead>
            <tr>
              <th scope="col">Its status</th>
              <th scope="col">means here</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="s in terms(g)" :key="s.id">
              <td>{{ s.name }}</td>
              <td>
                <ChooseOne
                  :model-value="known(g, s.id)"
                  :name="`${s.name} means`"
                  :options="STATUS_CHOICES"
                  v-bind="known(g, s.id) === null ? { none: 'not said yet' } : {}"
                  @update:model-value="m => setStatus(g, s.id, m)"
                />
              </td>
            </tr>
          </tbody>
        </table>
        <table v-if="g[0] && g[0].terms.priorities.length > 0">
          <caption class="visually-hidden">
            What its priorities mean
          </caption>
          <thead>
            <tr>
              <th scope="col">Its priority</th>
              <th scope="col">means here</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="p in g[0].terms.priorities" :key="p.id">
              <td>{{ p.name }}</td>
              <td>
                <ChooseOne
                  :model-value="meaning(g).priorities[p.id] ?? p.means"
                  :name="`${p.name} means`"
                  :options="PRIORITIES"
                  @update:model-value="
                    n => change(g, { priorities: { ...meaning(g).priorities, [p.id]: n ?? 0 } })
                  "
                />
              </td>
            </tr>
          </tbody>
        </table>
      </div>
      <ul v-if="terms(g).length > 0" class="writes">
        <li v-for="w in WRITES" :key="w.status">
          <template v-if="writable(g, w.status).length > 0">
            <span>{{ w.words }}</span>
            <ChooseOne
              :model-value="written(g, w.status)"
              :name="w.words"
              :options="writable(g, w.status)"
              @update:model-value="v => setWritten(g, w.status, v)"
            />
          </template>
          <span v-else class="quiet"
            >{{ w.words.replace(', write', '') }}: none of its words means that, so it cannot be.</span
          >
        </li>
      </ul>
      <p v-if="g[0] && !g[0].terms.roles.some(r => r.role === 'plan')">
        Of its dates,
        <SentenceChoice
          :model-value="meaning(g).swapDates"
          :options="DATES"
          name="Its dates"
          @update:model-value="v => change(g, { swapDates: v })"
        />.
        <template v-if="g[0] && !hasTerms(g[0])"> Its statuses are those of the standard.</template>
      </p>
    </section>
  </div>
</template>

<style scoped>
.group {
  padding: 10px 0;
  border-top: 1px solid var(--warp);
}
.group:first-of-type {
  border-top: 0;
  padding-top: 0;
}
h3 {
  margin-bottom: 8px;
}
.why {
  color: var(--clay);
  margin: 0 0 8px;
}
.columns {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(260px, 1fr));
  gap: 8px 20px;
  margin-bottom: 12px;
}
.columns label {
  display: grid;
  grid-template-columns: 1fr 1fr;
  align-items: center;
  gap: 8px;
}
.halves {
  display: flex;
  align-items: flex-start;
  flex-wrap: wrap;
  gap: 8px 40px;
}
table {
  border-collapse: collapse;
}
th {
  text-align: left;
  font-weight: 400;
  color: var(--husk);
  padding: 0 18px 4px 0;
}
td {
  padding: 3px 18px 3px 0;
}
td:last-child {
  min-width: 150px;
}
.writes {
  list-style: none;
  margin: 10px 0;
  padding: 0;
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(340px, 1fr));
  gap: 6px 20px;
}
.writes li {
  display: flex;
  align-items: center;
  flex-wrap: wrap;
  gap: 8px;
}
@media (max-width: 480px) {
  .columns,
  .writes {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
