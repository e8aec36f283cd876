<script setup lang="ts">
import type { PlanRegular } from '@loom/core/planning'
import { computed, ref } from 'vue'
import PlainChoice from '../../../ui/PlainChoice.vue'
import { minuteWords } from '../../../ui/telling.ts'
import { minuteOf } from '../../../ui/typed-hours.ts'

/** One regular: how often, how long, and when it is welcome. */
const props = defineProps<{ regular: PlanRegular; isNew: boolean; busy: boolean }>()
const emit = defineEmits<{ save: [regular: PlanRegular]; remove: [regular: PlanRegular]; close: [] }>()

const draft = ref<PlanRegular>(props.regular)
const from = ref(minuteWords(props.regular.within.start))
const to = ref(minuteWords(props.regular.within.end))
const tried = ref(false)
const IMPORTANCE = [
  { value: 20, label: 'where there is room' },
  { value: 50, label: 'like other work' },
  { value: 80, label: 'before most work' },
]
const nearest = computed(() =>
  IMPORTANCE.reduce((best, o) =>
    Math.abs(o.value - draft.value.importance) < Math.abs(best.value - draft.value.importance) ? o : best,
  ),
)
const isLength = (n: number): boolean => Number.isInteger(n) && n >= 5 && n <= 600
const trouble = computed(() => {
  const { name, shortest, longest, timesAWeek } = draft.value
  const [start, end] = [minuteOf(from.value), minuteOf(to.value)]
  if (!name.trim()) return 'Give it a name.'
  if (!Number.isInteger(timesAWeek) || timesAWeek < 1 || timesAWeek > 7) return '1 to 7 times a week.'
  if (!isLength(shortest) || !isLength(longest)) return 'Its length is 5 to 600 min.'
  if (shortest > longest) return 'Its shortest length is longer than its longest.'
  if (start === null || end === null) return 'A time of it cannot be read.'
  if (start >= end) return 'Its hours end before they begin.'
  if (end - start < shortest) return 'Its hours are shorter than it is.'
  return ''
})
function save(): void {
  tried.value = true
  const [start, end] = [minuteOf(from.value), minuteOf(to.value)]
  if (trouble.value || start === null || end === null) return
  emit('save', { ...draft.value, name: draft.value.name.trim(), within: { start, end } })
}
</script>

<template>
  <form class="form" @submit.prevent="save">
    <label>
      Name
      <input v-model="draft.name" class="native wide" maxlength="100" autocomplete="off" />
    </label>
    <p class="sentence">
      <input
        v-model.number="draft.timesAWeek"
        class="native few"
        type="number"
        min="1"
        max="7"
        aria-label="How often a week"
      />
      {{ draft.timesAWeek === 1 ? 'time' : 'times' }} a week, at most once a day
    </p>
    <p class="sentence">
      <input
        v-model.number="draft.shortest"
        class="native few"
        type="number"
        min="5"
        step="5"
        aria-label="At least so many minutes"
      />
      to
      <input
        v-model.number="draft.longest"
        class="native few"
        type="number"
        min="5"
        step="5"
        aria-label="At most so many minutes"
      />
      min
    </p>
    <p class="sentence">
      between <input v-model="from" class="native hour" aria-label="From" /> and
      <input v-model="to" class="native hour" aria-label="To" />
    </p>
    <p class="sentence">
      It comes
      <PlainChoice
        name="How important"
        :model-value="nearest.value"
        :options="IMPORTANCE"
        @update:model-value="v => (draft.importance = v ?? 50)"
      />
    </p>
    <label class="sentence"
      ><input v-model="draft.isBreak" type="checkbox" /> It is a break, and no work
    </label>
    <p v-if="tried && trouble" class="wrong" role="alert">{{ trouble }}</p>
    <div class="acts">
      <button type="submit" class="push primary" :disabled="busy">Save</button>
      <button type="button" class="push" @click="emit('close')">Cancel</button>
      <span class="spacer" />
      <button v-if="!isNew" type="button" class="push" @click="emit('remove', regular)">Delete</button>
    </div>
  </form>
</template>

<style scoped>
.form {
  display: grid;
  gap: 10px;
}
label {
  display: grid;
  gap: 3px;
}
.wide {
  width: 100%;
  box-sizing: border-box;
}
.sentence {
  margin: 0;
  display: flex;
  flex-wrap: wrap;
  gap: 4px 6px;
  align-items: center;
}
.hour,
.few {
  width: 64px;
}
.acts {
  display: flex;
  gap: 8px;
}
.spacer {
  flex: 1;
}
.wrong {
  color: var(--clay);
  margin: 0;
}
</style>
