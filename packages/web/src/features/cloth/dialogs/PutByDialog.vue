<script setup lang="ts">
import { addDays, type ClothItem, dayWords, type Edit, mondayOf } from '@loom/core/view'
import { Button, Modal } from 'ant-design-vue'
import { computed, ref } from 'vue'
import { namedTogether } from '../data/chosen.ts'
import TogetherList from './TogetherList.vue'
import ChooseDay from '../../../ui/ChooseDay.vue'

/** Out of sight until a day, a week, or without a date. */
const props = defineProps<{ together: readonly ClothItem[]; today: string }>()
const emit = defineEmits<{ edit: [edit: Edit]; close: [] }>()
const words = computed(() => {
  const many = props.together.length > 1
  const placed = props.together.some(i => i.place.kind !== 'none')
  const back = many
    ? 'They are out of sight until then and come back to the shelf by themselves.'
    : 'It is out of sight until then and comes back to the shelf by itself.'
  const taken = many
    ? ' Their times are taken away; due dates stay.'
    : ' Its time is taken away; its due date stays.'
  return placed ? back + taken : back
})
const nextWeek = addDays(mondayOf(props.today), 7)
const day = ref(addDays(props.today, 14))
const CHOICES = [
  { name: 'Tomorrow', until: addDays(props.today, 1) },
  { name: `Next week, ${dayWords(nextWeek)}`, until: nextWeek },
  { name: `The week after, ${dayWords(addDays(nextWeek, 7))}`, until: addDays(nextWeek, 7) },
  { name: 'Without a date', until: '' },
]
</script>

<template>
  <Modal
    open
    :title="`Put ${namedTogether(together)} by`"
    :footer="null"
    :width="420"
    @cancel="emit('close')"
  >
    <TogetherList :items="together" />
    <p class="quiet">{{ words }}</p>
    <div class="choices">
      <Button v-for="c in CHOICES" :key="c.name" @click="emit('edit', { do: 'put-by', until: c.until })">{{
        c.name
      }}</Button>
    </div>
    <form class="day" @submit.prevent="emit('edit', { do: 'put-by', until: day })">
      <label for="put-by-day">Until</label>
      <ChooseDay id="put-by-day" v-model="day" :min="addDays(today, 1)" />
      <Button html-type="submit" :disabled="!day">Put by</Button>
    </form>
  </Modal>
</template>

<style scoped>
.choices {
  display: grid;
  gap: 6px;
  margin-bottom: 12px;
}
.choices :deep(.ant-btn) {
  text-align: left;
}
.day {
  display: flex;
  gap: 8px;
  align-items: center;
}
</style>
