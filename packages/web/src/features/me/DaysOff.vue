<script setup lang="ts">
import { dayWords } from '@loom/core/view'
import { PhX } from '@phosphor-icons/vue'
import { Button } from 'ant-design-vue'
import { computed, ref } from 'vue'
import { type DaysAway, spansOf, whyNot, withoutSpan, withSpan } from './days-off.ts'
import ChooseDay from '../../ui/ChooseDay.vue'

/** Days off as spans to add and remove. `YYYY-MM-DD`. */
const days = defineModel<string[]>({ required: true })

const from = ref('')
const to = ref('')
const tried = ref(false)
const asked = computed((): DaysAway => ({ from: from.value, to: to.value || from.value }))
const trouble = computed(() => (tried.value ? whyNot(asked.value) : ''))

const year = (date: string): string =>
  date.slice(0, 4) === days.value[0]?.slice(0, 4) ? '' : ` ${date.slice(0, 4)}`
const spanWords = (span: DaysAway): string =>
  span.from === span.to
    ? `${dayWords(span.from)}${year(span.from)}`
    : `${dayWords(span.from)} – ${dayWords(span.to)}${year(span.to)}`

/** Whether nothing is left that was typed and not taken. */
function add(): boolean {
  tried.value = true
  if (whyNot(asked.value)) return false
  days.value = withSpan(days.value, asked.value)
  from.value = ''
  to.value = ''
  tried.value = false
  return true
}
defineExpose({ addTyped: () => (from.value === '' && to.value === '') || add() })
</script>

<template>
  <div class="off" role="group" aria-label="Days off">
    <span>Days off</span>
    <span v-if="days.length === 0" class="quiet">none yet</span>
    <span v-for="s in spansOf(days)" :key="s.from" class="span">
      {{ spanWords(s) }}
      <button
        type="button"
        class="plain"
        :aria-label="`Work on ${spanWords(s)} after all`"
        @click="days = withoutSpan(days, s)"
      >
        <PhX :size="12" />
      </button>
    </span>
    <span class="add">
      <span>from <ChooseDay v-model="from" name="First day off" /></span>
      <span>to <ChooseDay v-model="to" name="Last day off" :min="from || undefined" /></span>
      <Button @click="add">Take off</Button>
    </span>
    <span v-if="trouble" class="wrong" role="alert">{{ trouble }}</span>
  </div>
</template>

<style scoped>
.off {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 6px 8px;
  margin-bottom: 12px;
}
.span {
  display: inline-flex;
  align-items: center;
  gap: 6px;
  padding: 2px 8px;
  background: var(--amber-wash);
  border-radius: 2px;
}
.add {
  display: inline-flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 8px;
  flex-basis: 100%;
}
.add > span {
  display: inline-flex;
  align-items: center;
  gap: 6px;
}
.native {
  width: 150px;
}
.wrong {
  color: var(--clay);
}
</style>
