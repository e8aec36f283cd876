<script setup lang="ts">
import type { PlanRegular, Planning, PlanWindow } from '@loom/core/planning'
import { PhPlus } from '@phosphor-icons/vue'
import { ref } from 'vue'
import { newId } from '../../../api/new-id.ts'
import { usePlanning } from '../../../stores/planning.ts'
import { useAttempt } from '../../../ui/attempt.ts'
import type { Scene } from '../data/use-scene.ts'
import { lunch, newRegular, newWindow, regularWords, windowWords } from './planning-words.ts'
import RegularForm from './RegularForm.vue'
import WindowForm from './WindowForm.vue'

/** Work windows and regulars: what there is, and a form for one of them. */
const props = defineProps<{ scene: Scene; planning: Planning }>()
const emit = defineEmits<{ close: [] }>()

const { changeAndSay } = usePlanning()
const { attempt, reason, busy } = useAttempt()
const window = ref<PlanWindow | null>(null)
const regular = ref<PlanRegular | null>(null)

async function putWindow(next: PlanWindow): Promise<void> {
  const known = props.planning.windows.some(w => w.id === next.id)
  const windows = known
    ? props.planning.windows.map(w => (w.id === next.id ? next : w))
    : [...props.planning.windows, next]
  if (await attempt(() => changeAndSay({ windows }, `${next.name}: saved.`))) window.value = null
}
async function dropWindow({ id, name }: PlanWindow): Promise<void> {
  const windows = props.planning.windows.filter(w => w.id !== id)
  if (await attempt(() => changeAndSay({ windows }, `${name}: no longer a work window.`))) window.value = null
}
async function putRegular(next: PlanRegular): Promise<void> {
  const known = props.planning.regulars.some(r => r.id === next.id)
  const regulars = known
    ? props.planning.regulars.map(r => (r.id === next.id ? next : r))
    : [...props.planning.regulars, next]
  if (await attempt(() => changeAndSay({ regulars }, `${next.name}: saved.`))) regular.value = null
}
async function dropRegular({ id, name }: PlanRegular): Promise<void> {
  const regulars = props.planning.regulars.filter(r => r.id !== id)
  if (await attempt(() => changeAndSay({ regulars }, `${name}: no longer a regular.`))) regular.value = null
}
</script>

<template>
  <div class="terms">
    <header>
      <h2>Work windows and regulars</h2>
      <button type="button" class="push small" @click="emit('close')">Back to the draft</button>
    </header>
    <p v-if="reason" class="wrong" role="alert">{{ reason }}</p>

    <WindowForm
      v-if="window"
      :window="window"
      :scene="scene"
      :is-new="!planning.windows.some(w => w.id === window?.id)"
      :busy="busy"
      @save="putWindow"
      @remove="dropWindow"
      @close="window = null"
    />
    <RegularForm
      v-else-if="regular"
      :regular="regular"
      :is-new="!planning.regulars.some(r => r.id === regular?.id)"
      :busy="busy"
      @save="putRegular"
      @remove="dropRegular"
      @close="regular = null"
    />
    <div v-else class="lists">
      <section aria-label="Work windows">
        <h3>Work windows</h3>
        <p class="quiet">
          Time that repeats and is kept for some of your tasks. Other work is not drafted into it.
        </p>
        <button
          v-for="w in planning.windows"
          :key="w.id"
          type="button"
          class="plain one"
          @click="window = JSON.parse(JSON.stringify(w)) as PlanWindow"
        >
          <strong>{{ w.name }}</strong>
          <span class="quiet">{{ windowWords(w) }}</span>
        </button>
        <button
          type="button"
          class="push small with-icon"
          @click="window = newWindow(newId(), scene.zone.value, scene.today.value)"
        >
          <PhPlus :size="13" /> Add a work window
        </button>
      </section>
      <section aria-label="Regulars">
        <h3>Regulars</h3>
        <p class="quiet">
          What you want to do so often a week. An event of the same name counts as done, or planned.
        </p>
        <button
          v-for="r in planning.regulars"
          :key="r.id"
          type="button"
          class="plain one"
          @click="regular = { ...r, within: { ...r.within } }"
        >
          <strong>{{ r.name }}</strong>
          <span class="quiet">{{ regularWords(r) }}</span>
        </button>
        <span class="adds">
          <button type="button" class="push small with-icon" @click="regular = newRegular(newId())">
            <PhPlus :size="13" /> Add a regular
          </button>
          <button
            v-if="!planning.regulars.some(r => r.name === 'Lunch')"
            type="button"
            class="push small with-icon"
            @click="regular = lunch(newId())"
          >
            <PhPlus :size="13" /> Add lunch
          </button>
        </span>
      </section>
    </div>
  </div>
</template>

<style scoped>
.terms {
  overflow: auto;
  padding: 12px 14px;
}
header {
  display: flex;
  justify-content: space-between;
  align-items: baseline;
  gap: 10px;
  margin-bottom: 8px;
}
.lists,
section {
  display: grid;
  gap: 8px;
  justify-items: start;
}
.lists {
  gap: 18px;
}
h3,
p {
  margin: 0;
}
.one {
  display: grid;
  justify-self: stretch;
  text-align: left;
  padding: 6px 8px;
  border: 1px solid var(--warp);
  border-radius: 3px;
  background: var(--cloth);
}
.one:hover {
  border-color: var(--amber);
}
.adds {
  display: flex;
  gap: 8px;
}
.wrong {
  color: var(--clay);
}
</style>
