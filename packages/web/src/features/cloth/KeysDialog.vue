<script setup lang="ts">
import { Modal } from 'ant-design-vue'

const emit = defineEmits<{ close: [] }>()
const KEYS: [string, string][] = [
  ['Tab', 'from item to item'],
  ['Enter', 'what can be done with it'],
  ['← →', '15 minutes earlier or later (5 with Alt)'],
  ['↑ ↓', 'a day earlier or later'],
  ['Shift ← →', 'shorter or longer by 15 minutes'],
  ['Space', 'complete, or open again'],
  ['P', 'place at a day and hour'],
  ['R', 'rename'],
  ['Delete', 'back to the shelf'],
  ['[ ]', 'the week before, the week after'],
  ['T', 'this week'],
  ['?', 'this list'],
]
</script>

<template>
  <Modal open title="Keys on the Cloth" :footer="null" :width="420" @cancel="emit('close')">
    <table>
      <tbody>
        <tr v-for="[keys, what] in KEYS" :key="keys">
          <th scope="row">{{ keys }}</th>
          <td>{{ what }}</td>
        </tr>
      </tbody>
    </table>
  </Modal>
</template>

<style scoped>
th {
  text-align: left;
  padding: 3px 24px 3px 0;
  white-space: nowrap;
}
</style>
