<script setup lang="ts">
import { onClickOutside } from '@vueuse/core'
import { nextTick, ref, useTemplateRef, watch } from 'vue'
import { useFloatingBy } from './floating.ts'

/** Words in a sentence that open what can be changed about them, over whatever is there. */
defineProps<{
  name: string
  label: string
  /** As wide and high as the screen allows, for very many lines. */
  large?: boolean
}>()

const open = ref(false)
const root = useTemplateRef<HTMLElement>('root')
const panel = useTemplateRef<HTMLElement>('panel')
const button = useTemplateRef<HTMLButtonElement>('button')
function close(): void {
  open.value = false
  button.value?.focus()
}
/** Going on by the keyboard to what is outside closes it, too. */
function left(event: FocusEvent): void {
  const to = event.relatedTarget
  if (to instanceof Node && !root.value?.contains(to)) open.value = false
}
const at = useFloatingBy(button, panel)
onClickOutside(root, () => (open.value = false))
watch(open, async isOpen => {
  if (!isOpen) return
  await nextTick()
  panel.value?.showPopover()
  const chosen = panel.value?.querySelector<HTMLElement>('[aria-checked="true"]')
  const first = chosen ?? panel.value?.querySelector<HTMLElement>('input, button, select, a')
  first?.focus()
})
</script>

<template>
  <span ref="root" class="fold" @keydown.esc.stop="close" @focusout="left">
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
      :class="{ large }"
      popover="manual"
      role="group"
      :aria-label="name"
      :style="at"
    >
      <slot :close="close" />
    </span>
  </span>
</template>

<style scoped>
.fold {
  display: inline-block;
}
.choice {
  font-weight: 700;
  border-bottom: 2px dotted var(--amber);
  line-height: 1.3;
  text-align: left;
}
.panel {
  position: fixed;
  inset: auto;
  margin: 0;
  display: grid;
  gap: 6px;
  width: max-content;
  min-width: 220px;
  max-width: min(380px, 92vw);
  max-height: min(320px, 80vh);
  overflow: auto;
  padding: 10px 12px;
  background: var(--cloth);
  border: 1px solid var(--warp-strong);
  border-radius: 3px;
  box-shadow: var(--float);
  font-weight: 400;
  line-height: 1.45;
  color: var(--peat);
}
.panel.large {
  max-width: min(1080px, 94vw);
  max-height: 84vh;
}
</style>
