<script setup lang="ts">
import { dayWords } from '@loom/core/view'
import { Button } from 'ant-design-vue'
import { computed, ref } from 'vue'
import { answer, api } from '../../api/client.ts'
import { useAttempt } from '../../ui/attempt.ts'
import ChooseDay from '../../ui/ChooseDay.vue'
import ChooseOne from '../../ui/ChooseOne.vue'
import type { Told } from './sharing.ts'

/** Who looks after what is one's own for some days. What is private stays one's own. */
const props = defineProps<{ told: Told }>()
const { busy, reason, attempt } = useAttempt()
const whom = ref<string | null>(null)
const from = ref('')
const to = ref('')

const nameOf = (id: string): string => props.told.people.find(p => p.id === id)?.name ?? ''
const choices = computed(() =>
  props.told.people
    .filter(p => p.id !== props.told.me && p.role !== 'reader')
    .map(p => ({ value: p.id, label: p.name })),
)
type Given = Parameters<typeof api.sharing.deputy.$put>[0]['json']
const put = (json: Given): Promise<boolean> => attempt(() => answer(() => api.sharing.deputy.$put({ json })))
async function name(): Promise<void> {
  if (whom.value) await put({ deputy: whom.value, from: from.value, to: to.value || from.value })
}
</script>

<template>
  <section class="sheet part">
    <h2>While I am away</h2>
    <p v-if="told.standsFor.length > 0">
      You stand in for <b>{{ told.standsFor.map(nameOf).join(', ') }}</b> today.
    </p>
    <p v-if="told.deputy" class="now">
      <span
        ><b>{{ nameOf(told.deputy.deputy) }}</b> looks after what is mine from
        {{ dayWords(told.deputy.from) }} to {{ dayWords(told.deputy.to) }}.</span
      >
      <Button size="small" :loading="busy" @click="put(null)">End it</Button>
    </p>
    <form v-else class="name" @submit.prevent="name">
      <span class="days">
        <ChooseOne
          v-model="whom"
          name="Who stands in for me"
          placeholder="A colleague"
          class="whom"
          :options="choices"
        />
        looks after what is mine
      </span>
      <span class="days">
        from <ChooseDay v-model="from" name="From" class="day" /> to
        <ChooseDay v-model="to" name="To" class="day" :min="from || undefined" />
      </span>
      <Button html-type="submit" :loading="busy" :disabled="!whom || from === ''">Name a deputy</Button>
    </form>
    <p v-if="reason" class="why" role="alert">{{ reason }}</p>
  </section>
</template>

<style scoped>
.part {
  padding: 14px 16px;
}
h2,
p {
  margin: 0 0 8px;
}
.now {
  display: flex;
  align-items: center;
  justify-content: space-between;
  gap: 8px;
}
.name {
  display: grid;
  gap: 8px;
  justify-items: start;
}
.whom {
  width: 150px;
}
.day :deep(*) {
  max-width: 140px;
}
.days {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 6px;
}
.why {
  color: var(--clay);
}
</style>
