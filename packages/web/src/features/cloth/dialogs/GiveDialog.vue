<script setup lang="ts">
import type { ClothItem, Edit } from '@loom/core/view'
import { Button, Modal } from 'ant-design-vue'
import { computed } from 'vue'
import { namedTogether } from '../data/chosen.ts'
import TogetherList from './TogetherList.vue'

/** Assigns a task to a member. */
const props = defineProps<{
  together: readonly ClothItem[]
  people: readonly { id: string; name: string }[]
}>()
const emit = defineEmits<{ edit: [edit: Edit]; close: [] }>()
/** Whoever may only look at it asks those who may. */
const asks = computed(() => props.together.some(i => i.onlyLook))
</script>

<template>
  <Modal
    open
    :title="`${asks ? 'Ask to give' : 'Give'} ${namedTogether(together)} to`"
    :footer="null"
    :width="360"
    @cancel="emit('close')"
  >
    <TogetherList :items="together" />
    <p v-if="asks" class="quiet">
      You may look at it, and not change it. Whoever looks after its list is asked, and decides.
    </p>
    <div class="choices">
      <Button
        v-for="p in people"
        :key="p.id"
        :disabled="together.every(i => i.people.includes(p.id))"
        @click="emit('edit', { do: 'give', to: p.id })"
        >{{ p.name
        }}{{
          together.every(i => i.people.includes(p.id)) ? (together.length > 1 ? ' has them' : ' has it') : ''
        }}</Button
      >
      <Button v-if="!asks" @click="emit('edit', { do: 'give', to: null })">Nobody</Button>
    </div>
  </Modal>
</template>

<style scoped>
.choices {
  display: grid;
  gap: 6px;
}
.choices :deep(.ant-btn) {
  text-align: left;
}
</style>
