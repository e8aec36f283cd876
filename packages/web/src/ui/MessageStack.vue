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
/*
 * The latest stands in the band, between the screens and the field, and covers nothing; those before it, and long
 * ones, reach down over the head of the screen, never over what one works on.
 */
.stack {
  position: fixed;
  left: min(var(--messages-left, 14px), calc(100vw - 14px - var(--wide)));
  top: var(--messages-top, 14px);
  width: var(--wide);
  --wide: min(max(var(--messages-width, 400px), 240px), 520px, calc(100vw - 28px));
  display: flex;
  flex-direction: column-reverse;
  gap: 4px;
  z-index: 1200;
  font-size: 13px;
  line-height: 1.3;
}
.message {
  display: flex;
  gap: 8px;
  align-items: center;
  min-height: 40px;
  box-sizing: border-box;
  padding: 2px 8px 2px 10px;
  background: var(--band);
  color: var(--band-ink);
  border-radius: 3px;
  border-left: 4px solid #e8a33d;
  box-shadow: var(--float);
}
.message:last-child {
  box-shadow: none;
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
