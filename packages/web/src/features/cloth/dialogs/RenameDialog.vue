<script setup lang="ts">
import type { ClothItem, Edit } from '@loom/core/view'
import { Input, Modal } from 'ant-design-vue'
import { ref } from 'vue'

const props = defineProps<{ item: ClothItem }>()
const emit = defineEmits<{ edit: [edit: Edit]; close: [] }>()
const title = ref(props.item.title)

function done(): void {
  if (title.value.trim()) emit('edit', { do: 'rename', title: title.value.trim() })
}
</script>

<template>
  <Modal
    open
    title="Rename"
    ok-text="Rename"
    :ok-button-props="{ disabled: !title.trim() }"
    :width="420"
    @ok="done"
    @cancel="emit('close')"
  >
    <Input v-model:value="title" aria-label="Title" :maxlength="500" autofocus @press-enter="done" />
  </Modal>
</template>
