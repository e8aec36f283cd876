<script setup lang="ts">
import { PhCheck, PhPlus } from '@phosphor-icons/vue'
import { Button, Input } from 'ant-design-vue'
import { computed, ref } from 'vue'
import type { IntakeForm, Offered } from './intake-form.ts'
import type { Source } from './source.ts'
import { useAsking } from './use-asking.ts'

/** Looks through the service as one types, and takes single items. */
const props = defineProps<{ offered: Offered[]; source: Source }>()
const form = defineModel<IntakeForm>({ required: true })

const words = ref('')
const { answer, trouble } = useAsking(
  () => ({ takesPart: form.value.takesPart, words: words.value }),
  q => props.source.search(q.takesPart, q.words),
)
const nameOf = (id: string): string => props.offered.find(o => o.remoteId === id)?.name ?? ''
const picked = computed(() => new Set(form.value.picks))

function toggle(id: string): void {
  const picks = picked.value.has(id) ? form.value.picks.filter(p => p !== id) : [...form.value.picks, id]
  form.value = { ...form.value, picks }
}
</script>

<template>
  <div>
    <Input
      v-model:value="words"
      placeholder="Search in titles and notes"
      aria-label="Search at the service"
    />
    <p role="status" class="quiet">
      <template v-if="answer">
        {{ answer.total }} {{ words ? 'found' : 'there' }}{{ answer.reading ? ', still reading' : '' }};
        {{ form.picks.length }} picked.
      </template>
      <template v-else>Reading at the service.</template>
    </p>
    <p v-if="trouble || answer?.error" class="why">{{ trouble || answer?.error }}</p>
    <ul v-if="answer" class="sheet">
      <li v-for="f in answer.found" :key="f.remoteId">
        <span class="title">{{ f.title }}</span>
        <span class="quiet">{{ nameOf(f.collection) }}</span>
        <Button
          size="small"
          class="with-icon"
          :type="picked.has(f.remoteId) ? 'primary' : 'default'"
          :aria-pressed="picked.has(f.remoteId)"
          :aria-label="`${picked.has(f.remoteId) ? 'Leave' : 'Take'} ${f.title}`"
          @click="toggle(f.remoteId)"
        >
          <component :is="picked.has(f.remoteId) ? PhCheck : PhPlus" :size="13" aria-hidden="true" />
          {{ picked.has(f.remoteId) ? 'Taken' : 'Take' }}
        </Button>
      </li>
    </ul>
  </div>
</template>

<style scoped>
ul {
  list-style: none;
  margin: 0;
  padding: 0;
  max-height: 300px;
  overflow: auto;
}
li {
  display: flex;
  align-items: center;
  gap: 12px;
  padding: 5px 10px;
  border-top: 1px solid var(--warp);
}
li:first-child {
  border-top: 0;
}
.title {
  flex: 1;
  min-width: 0;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
p {
  margin: 6px 0;
}
.why {
  color: var(--clay);
}
</style>
