<script setup lang="ts">
import type { ClothItem } from '@loom/core/view'
import { Modal } from 'ant-design-vue'
import { namedTogether } from '../data/chosen.ts'
import TogetherList from './TogetherList.vue'

/** Before something is deleted: what happens at the other side. */
defineProps<{ together: readonly ClothItem[]; words: string }>()
const emit = defineEmits<{ sure: []; close: [] }>()
</script>

<template>
  <Modal
    open
    :title="`Delete ${namedTogether(together)}`"
    ok-text="Delete"
    :width="420"
    @ok="emit('sure')"
    @cancel="emit('close')"
  >
    <TogetherList :items="together" />
    <p>{{ words }}</p>
  </Modal>
</template>
