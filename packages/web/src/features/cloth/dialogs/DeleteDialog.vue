<script setup lang="ts">
import { Modal } from 'ant-design-vue'

/** Before something is deleted: what happens at the other side. */
defineProps<{ title: string; words: string }>()
const emit = defineEmits<{ sure: []; close: [] }>()
</script>

<template>
  <Modal
    open
    :title="`Delete “${title}”`"
    ok-text="Delete"
    :width="420"
    @ok="emit('sure')"
    @cancel="emit('close')"
  >
    <p>{{ words }}</p>
  </Modal>
</template>
