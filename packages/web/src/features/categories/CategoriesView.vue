<script setup lang="ts">
import { type CategoryChange, dyeFor } from '@loom/core/view'
import { useQuery, useQueryCache } from '@pinia/colada'
import { computed, ref } from 'vue'
import { answer, api } from '../../api/client.ts'
import { useAttempt } from '../../ui/attempt.ts'
import ChooseOne from '../../ui/ChooseOne.vue'
import { say } from '../../stores/messages.ts'

/** The team's categories: their names and colours, how many items have each, and what each service calls it. */
const cache = useQueryCache()
const load = () => answer(() => api.categories.$get())
type Line = Awaited<ReturnType<typeof load>>['categories'][number]
const query = useQuery({ key: ['categories'], query: load })
const lines = computed(() => query.data.value?.categories ?? [])
const { reason, attempt } = useAttempt()

const looked = ref('')
const MANY = 12
const found = computed(() => {
  const words = looked.value.trim().toLowerCase()
  const says = (l: Line): boolean =>
    [l.name, ...l.there.map(t => t.word)].some(w => w.toLowerCase().includes(words))
  return words === '' ? lines.value : lines.value.filter(says)
})
const others = (line: Line) =>
  lines.value.filter(l => l.name !== line.name).map(l => ({ value: l.name, label: l.name }))

async function change(json: CategoryChange, text: string): Promise<void> {
  await attempt(async () => {
    const { before, after } = await answer(() => api.categories.change.$post({ json }))
    await cache.invalidateQueries({ key: ['categories'] })
    const undo = (): void => void takeBack({ do: 'restore', categories: before, after })
    say(json.do === 'restore' ? { text } : { text, undo })
  })
}
/** This screen may be left by then, so a refusal is a message too. */
async function takeBack(json: CategoryChange): Promise<void> {
  await change(json, 'Taken back.')
  if (reason.value) say({ text: reason.value, tone: 'wrong' })
}
function rename(line: Line, event: Event): void {
  const field = event.target as HTMLInputElement
  const to = field.value.trim()
  if (to === '' || to === line.name) {
    field.value = line.name
    return
  }
  const isOther = lines.value.some(l => l.name !== line.name && l.name.toLowerCase() === to.toLowerCase())
  void change(
    { do: 'rename', name: line.name, to },
    isOther ? `${line.name} and ${to} are one now.` : `${line.name} is called ${to} here now.`,
  ).then(() => (field.value = reason.value ? line.name : to))
}
const merge = (line: Line, to: string | null): void =>
  void (to && change({ do: 'rename', name: line.name, to }, `${line.name} and ${to} are one now.`))
const dye = (line: Line, hex: string | null): void =>
  void change({ do: 'dye', name: line.name, dye: hex }, `${line.name} has another colour.`)
const part = (line: Line, word: string): void =>
  void change({ do: 'part', name: line.name, word }, `${word} is a category by itself again.`)
const isPart = (line: Line, word: string): boolean => word.toLowerCase() !== line.name.toLowerCase()
</script>

<template>
  <main class="page">
    <div class="page-head">
      <h1>Categories</h1>
      <span class="quiet"
        >Named and coloured for the whole team. What services call them stays as it is there.</span
      >
    </div>
    <p v-if="query.error.value" role="alert">{{ query.error.value.message }}</p>
    <p v-if="reason" class="why" role="alert">{{ reason }}</p>
    <div v-if="query.data.value && lines.length === 0" class="sheet empty">
      <h2>No categories yet</h2>
      <p>
        They come with tasks and events that have some, or are written under Categories in the details of an
        item.
      </p>
      <RouterLink to="/cloth" class="push primary">To the Cloth</RouterLink>
    </div>
    <template v-else-if="query.data.value">
      <input
        v-if="lines.length > MANY"
        v-model="looked"
        class="native look"
        type="search"
        aria-label="Find a category"
        placeholder="Find a category"
      />
      <div class="sheet">
        <table>
          <thead>
            <tr>
              <th scope="col">Colour</th>
              <th scope="col">Name here</th>
              <th scope="col" class="number">Items</th>
              <th scope="col">What services call it</th>
              <th scope="col">Make one with</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="l in found" :key="l.name">
              <td>
                <input
                  type="color"
                  :value="(l.dye ?? dyeFor(l.name)).toLowerCase()"
                  :aria-label="`Colour of ${l.name}`"
                  @change="e => dye(l, (e.target as HTMLInputElement).value)"
                />
              </td>
              <td>
                <input
                  class="native name"
                  :value="l.name"
                  :aria-label="`Name of ${l.name}`"
                  maxlength="200"
                  @keydown.enter="e => (e.target as HTMLInputElement).blur()"
                  @keydown.esc="e => ((e.target as HTMLInputElement).value = l.name)"
                  @change="e => rename(l, e)"
                />
              </td>
              <td class="number">{{ l.count }}</td>
              <td>
                <span v-for="t in l.there" :key="`${t.connection} ${t.word}`" class="there">
                  {{ t.connection }}: <b>{{ t.word }}</b> <span class="quiet">{{ t.count }}</span>
                  <button
                    v-if="isPart(l, t.word)"
                    type="button"
                    class="plain link"
                    :aria-label="`${t.word} is not ${l.name}`"
                    @click="part(l, t.word)"
                  >
                    not this
                  </button>
                </span>
                <span v-if="l.there.length === 0" class="quiet">nothing has it now</span>
              </td>
              <td>
                <ChooseOne
                  :model-value="null"
                  :name="`Make ${l.name} one with`"
                  none="choose…"
                  searchable
                  :options="others(l)"
                  @update:model-value="to => merge(l, to)"
                />
              </td>
            </tr>
          </tbody>
        </table>
        <p v-if="found.length === 0" class="quiet none">No category is called so.</p>
      </div>
    </template>
  </main>
</template>

<style scoped>
.empty {
  padding: 28px;
}
.empty p {
  max-width: 60ch;
}
.why {
  color: var(--clay);
}
.look {
  width: 260px;
  margin-bottom: 10px;
}
table {
  width: 100%;
  border-collapse: collapse;
}
th:nth-child(1) {
  width: 60px;
}
th:nth-child(2) {
  width: 230px;
}
th:nth-child(3) {
  width: 60px;
}
th {
  text-align: left;
  font-weight: 400;
  color: var(--husk);
  padding: 8px 12px;
}
td {
  padding: 6px 12px;
  border-top: 1px solid var(--warp);
  vertical-align: middle;
}
.number {
  text-align: right;
  width: 60px;
}
.name {
  width: 200px;
}
td:last-child {
  width: 190px;
}
.there {
  display: inline-block;
  margin-right: 16px;
}
.there b {
  font-weight: 600;
}
.link {
  margin-left: 6px;
  color: var(--amber);
  text-decoration: underline;
}
.none {
  padding: 14px;
  margin: 0;
}
@media (max-width: 720px) {
  .sheet {
    overflow-x: auto;
  }
}
</style>
