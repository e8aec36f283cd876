<script setup lang="ts">
import { nextTick, onBeforeUnmount, ref, useTemplateRef, watch } from 'vue'

/** Words in a sentence that open what can be changed about them. */
defineProps<{ name: string; label: string }>()

const open = ref(false)
const root = useTemplateRef<HTMLElement>('root')
const panel = useTemplateRef<HTMLElement>('panel')
const button = useTemplateRef<HTMLButtonElement>('button')
const shift = ref(0)

function close(): void {
  open.value = false
  button.value?.focus()
}
function outside(event: Event): void {
  if (root.value && !root.value.contains(event.target as Node)) open.value = false
}
watch(open, async isOpen => {
  if (!isOpen) return document.removeEventListener('pointerdown', outside)
  document.addEventListener('pointerdown', outside)
  shift.value = 0
  await nextTick()
  const right = panel.value?.getBoundingClientRect().right ?? 0
  shift.value = Math.min(0, document.documentElement.clientWidth - 12 - right)
  panel.value?.querySelector<HTMLElement>('input, button, select')?.focus()
})
onBeforeUnmount(() => document.removeEventListener('pointerdown', outside))
</script>

<template>
  <span ref="root" class="fold" @keydown.esc.stop="close">
    <button
      ref="button"
      type="button"
      class="plain choice"
      :aria-expanded="open"
      :aria-label="`${name}: ${label}`"
      @click="open = !open"
    >
      {{ label }}
    </button>
    <span
      v-if="open"
      ref="panel"
      class="panel"
      role="group"
      :aria-label="name"
      :style="{ transform: `translateX(${shift}px)` }"
    >
      <slot :close="close" />
    </span>
  </span>
</template>

<style scoped>
.fold {
  position: relative;
  display: inline-block;
}
.choice {
  font-weight: 700;
  border-bottom: 2px dotted var(--amber);
  line-height: 1.3;
  text-align: left;
}
.panel {
  position: absolute;
  left: 0;
  top: calc(100% + 4px);
  z-index: 30;
  display: grid;
  gap: 6px;
  width: max-content;
  min-width: 220px;
  max-width: min(380px, 92vw);
  max-height: 320px;
  overflow: auto;
  padding: 10px 12px;
  background: var(--cloth);
  border: 1px solid var(--warp-strong);
  border-radius: 3px;
  box-shadow: var(--float);
  font-weight: 400;
  line-height: 1.45;
}
</style>
