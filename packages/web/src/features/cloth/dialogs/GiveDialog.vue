<script setup lang="ts">
import type { ClothItem, Edit } from '@loom/core/view'
import { Button, Modal } from 'ant-design-vue'

/** Assigns a task to a member. */
defineProps<{ item: ClothItem; people: readonly { id: string; name: string }[] }>()
const emit = defineEmits<{ edit: [edit: Edit]; close: [] }>()
</script>

<template>
  <Modal open :title="`Give “${item.title}” to`" :footer="null" :width="360" @cancel="emit('close')">
    <div class="choices">
      <Button
        v-for="p in people"
        :key="p.id"
        :disabled="item.people.includes(p.id)"
        @click="emit('edit', { do: 'give', to: p.id })"
        >{{ p.name }}{{ item.people.includes(p.id) ? ' has it' : '' }}</Button
      >
      <Button @click="emit('edit', { do: 'give', to: null })">Nobody</Button>
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
