<script setup lang="ts">
import { computed } from 'vue'
import type { IntakeForm } from './intake-form.ts'
import type { Source } from './source.ts'
import { useAsking } from './use-asking.ts'

/** How many items there are, and how many with this sentence, before anything comes in. */
const props = defineProps<{ form: IntakeForm; source: Source }>()

const { answer, trouble } = useAsking(
  () => ({
    takesPart: props.form.takesPart,
    filter: props.form.scope.filter,
    meanings: props.form.meanings,
  }),
  asked => props.source.count(asked),
)
const share = computed(() => {
  const { total = 0, admitted = 0 } = answer.value ?? {}
  return total > 0 ? (100 * admitted) / total : 0
})
</script>

<template>
  <div class="count" role="status">
    <div class="bar" aria-hidden="true"><span :style="{ width: `${share}%` }" /></div>
    <p v-if="answer">
      <strong>{{ answer.admitted }} of {{ answer.total }} items match.</strong>
      <span v-if="answer.reading" class="quiet"> Still counting.</span>
      <span v-else-if="answer.examples.length > 0" class="quiet">
        Among them {{ answer.examples.slice(0, 3).join(' · ') }}.
      </span>
    </p>
    <p v-else class="quiet">Counting at the service. Nothing has come in yet.</p>
    <p v-if="trouble || answer?.error" class="why">{{ trouble || answer?.error }}</p>
  </div>
</template>

<style scoped>
.bar {
  height: 6px;
  max-width: 420px;
  background: var(--warp);
  border-radius: 3px;
  overflow: hidden;
}
.bar span {
  display: block;
  height: 100%;
  background: var(--amber);
}
p {
  margin: 6px 0 0;
}
.why {
  color: var(--clay);
}
</style>
