<script setup lang="ts">
import { computed } from 'vue'
import { useChats } from '../../stores/chat.ts'
import SentenceChoice from '../../ui/SentenceChoice.vue'

/** Whether chats are told what this person is at, where one is connected that can. */
const props = defineProps<{ tells: boolean }>()
const emit = defineEmits<{ change: [tells: boolean] }>()
const { chats } = useChats()
const there = computed(() => chats.value.find(c => c.tellsStatus))
const CHOICES = [
  { value: 'no', label: 'nothing of me' },
  { value: 'yes', label: 'a meeting, a break or focus, as long as it lasts' },
]
</script>

<template>
  <span v-if="there" class="quiet status">
    {{ there.name }} says
    <SentenceChoice
      name="What the chat says of me"
      :options="CHOICES"
      :model-value="props.tells ? 'yes' : 'no'"
      @update:model-value="v => emit('change', v === 'yes')"
    />
  </span>
</template>

<style scoped>
.status {
  font-size: 13px;
}
</style>
