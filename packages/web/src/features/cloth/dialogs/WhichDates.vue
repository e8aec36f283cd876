<script setup lang="ts">
import { Button, Modal } from 'ant-design-vue'
import type { Which } from '../data/use-cloth.ts'

/** Something that repeats is changed: which of its dates are meant. */
defineProps<{ title: string; removes: boolean }>()
const emit = defineEmits<{ choose: [which: Which]; close: [] }>()
const CHOICES: { which: Which; name: string }[] = [
  { which: 'one', name: 'This one' },
  { which: 'onward', name: 'This and later' },
  { which: 'all', name: 'All' },
]
</script>

<template>
  <Modal
    open
    :title="removes ? `Delete “${title}”` : `Change “${title}”`"
    :footer="null"
    :width="420"
    @cancel="emit('close')"
  >
    <p>It repeats. Which of its dates do you mean?</p>
    <div class="choices">
      <Button v-for="c in CHOICES" :key="c.which" @click="emit('choose', c.which)">{{ c.name }}</Button>
    </div>
  </Modal>
</template>

<style scoped>
.choices {
  display: flex;
  gap: 8px;
  flex-wrap: wrap;
}
</style>
