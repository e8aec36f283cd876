<script setup lang="ts">
import { Button, Modal } from 'ant-design-vue'
import { computed, ref } from 'vue'
import { useMine } from '../../../stores/mine.ts'
import { type Act, ACTS } from '../data/commands.ts'
import { keyOf, type ScreenAct, SCREEN_ACTS } from '../data/keys.ts'

/** All keys of the Cloth; those of acts can be changed. */
const emit = defineEmits<{ close: [] }>()
const mine = useMine()
const own = computed(() => mine.settings.value.keys)

const FIXED: [string, string][] = [
  ['Tab', 'from item to item'],
  ['Ctrl ← → ↑ ↓', 'to the item that lies there'],
  ['Ctrl Home End', 'to the first or last item'],
  ['Enter', 'what can be done with it'],
  ['← →', '15 minutes earlier or later (5 with Alt)'],
  ['↑ ↓', 'a day earlier or later'],
  ['Shift ← →', 'shorter or longer by 15 minutes'],
  ['Space', 'complete, or open again'],
  ['Delete', 'back to the shelf; a block or an event is deleted'],
  ['Ctrl click', 'choose several; what is then done to one is done to all'],
  ['Alt ↑ ↓', 'up or down on the shelf, in an order of one’s own'],
]
const WHILE_DRAGGING: [string, string][] = [
  ['Ctrl', 'a further block, or a copy'],
  ['Shift', 'all of the free span under the pointer'],
  ['Alt', 'steps of 5 minutes'],
  ['K', 'further time: keep it in another place'],
  ['F', 'there: busy, or free'],
  ['V', 'there: with its title, or private'],
  ['Escape', 'let go without doing anything'],
]
const acts = computed(() =>
  [...(Object.keys(SCREEN_ACTS) as ScreenAct[]), ...(Object.keys(ACTS) as Act[])].map(act => ({
    act,
    key: keyOf(act, own.value),
    says: act in ACTS ? ACTS[act as Act].says : SCREEN_ACTS[act as ScreenAct].says,
  })),
)
const changing = ref<string | null>(null)
const trouble = ref('')

async function take(event: KeyboardEvent): Promise<void> {
  const act = changing.value
  if (!act || event.key === 'Tab') return
  event.preventDefault()
  event.stopPropagation()
  if (event.key === 'Escape') return void (changing.value = null)
  if (event.key.length !== 1 || event.key === ' ') {
    trouble.value = 'One letter, digit or sign.'
    return
  }
  const taken = acts.value.find(a => a.act !== act && a.key === event.key)
  if (taken) {
    trouble.value = `${event.key} is the key to ${taken.says} already.`
    return
  }
  trouble.value = ''
  changing.value = null
  await mine.change({ keys: { ...own.value, [act]: event.key } })
}
</script>

<template>
  <Modal open centered title="Keyboard shortcuts" :footer="null" :width="660" @cancel="emit('close')">
    <div class="columns">
      <table>
        <tbody>
          <tr v-for="a in acts" :key="a.act">
            <th scope="row">
              <button
                type="button"
                class="plain key"
                :aria-label="`Change the key to ${a.says}, now ${a.key}`"
                :class="{ changing: changing === a.act }"
                @click="((changing = a.act), (trouble = ''))"
                @keydown="take"
              >
                {{ changing === a.act ? 'press…' : a.key.toUpperCase() }}
              </button>
            </th>
            <td>{{ a.says }}</td>
          </tr>
        </tbody>
      </table>
      <div>
        <table>
          <tbody>
            <tr v-for="[keys, what] in FIXED" :key="keys">
              <th scope="row">{{ keys }}</th>
              <td>{{ what }}</td>
            </tr>
          </tbody>
        </table>
        <h3>While dragging</h3>
        <table>
          <tbody>
            <tr v-for="[keys, what] in WHILE_DRAGGING" :key="keys">
              <th scope="row">{{ keys }}</th>
              <td>{{ what }}</td>
            </tr>
          </tbody>
        </table>
      </div>
    </div>
    <p class="foot">
      <span v-if="trouble" role="alert" class="wrong">{{ trouble }}</span>
      <span v-else class="quiet">Click a key to have another.</span>
      <Button size="small" :disabled="Object.keys(own).length === 0" @click="mine.change({ keys: {} })"
        >Reset all</Button
      >
    </p>
  </Modal>
</template>

<style scoped>
.columns {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 20px;
}
th {
  text-align: left;
  padding: 1px 12px 1px 0;
  white-space: nowrap;
  vertical-align: top;
}
td {
  padding: 1px 0;
}
h3 {
  margin: 10px 0 4px;
}
.key {
  min-width: 26px;
  line-height: 1.35;
  padding: 0 5px;
  border: 1px solid var(--warp-strong);
  border-radius: 3px;
  text-align: center;
}
.key:hover,
.changing {
  border-color: var(--amber);
  background: var(--amber-wash);
}
.foot {
  display: flex;
  justify-content: space-between;
  margin: 12px 0 0;
}
.wrong {
  color: var(--clay);
}
@media (max-width: 640px) {
  .columns {
    grid-template-columns: 1fr;
  }
}
</style>
