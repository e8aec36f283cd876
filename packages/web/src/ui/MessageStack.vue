<script setup lang="ts">
import { PhX } from '@phosphor-icons/vue'
import { storeToRefs } from 'pinia'
import { useMessages } from '../stores/messages.ts'

const store = useMessages()
const { messages } = storeToRefs(store)
const { dismiss, takeBack } = store

function act(id: number, run: () => void): void {
  dismiss(id)
  run()
}
</script>

<template>
  <div class="stack" role="status" aria-live="polite">
    <div v-for="m in messages" :key="m.id" class="message" :class="m.tone">
      <span class="text">{{ m.text }}</span>
      <button v-if="m.act" type="button" class="plain undo" @click="act(m.id, m.act.run)">
        {{ m.act.name }}
      </button>
      <button v-if="m.undo" type="button" class="plain undo" @click="takeBack(m)">Undo</button>
      <button type="button" class="plain close" aria-label="Close this message" @click="dismiss(m.id)">
        <PhX :size="14" />
      </button>
    </div>
  </div>
</template>

<style scoped>
.stack {
  position: fixed;
  left: 14px;
  bottom: 14px;
  display: grid;
  gap: 8px;
  z-index: 1200;
  max-width: min(520px, calc(100vw - 28px));
}
.message {
  display: flex;
  gap: 14px;
  align-items: center;
  padding: 9px 12px;
  background: var(--band);
  color: var(--band-ink);
  border-radius: 3px;
  border-left: 4px solid #e8a33d;
  box-shadow: var(--float);
}
.message.wrong {
  border-left-color: #f08e78;
}
.text {
  flex: 1;
}
.undo {
  color: #f0b866;
  font-weight: 700;
  padding: 2px 6px;
}
.close {
  display: flex;
  color: var(--band-quiet);
}
</style>
