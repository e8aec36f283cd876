<script setup lang="ts" generic="T extends string | number">
/** One of a few that stand side by side: chosen by mouse, or by the arrow keys once one of them is focused. */
const props = defineProps<{
  name: string
  options: readonly { value: T; label: string }[]
  disabled?: boolean
}>()
const model = defineModel<T>({ required: true })

const STEPS: Record<string, number> = { ArrowLeft: -1, ArrowUp: -1, ArrowRight: 1, ArrowDown: 1 }

function walk(event: KeyboardEvent): void {
  const step = STEPS[event.key]
  const at = props.options.findIndex(o => o.value === model.value)
  const next = step === undefined ? undefined : props.options.at((at + step) % props.options.length)
  if (next === undefined) return
  event.preventDefault()
  event.stopPropagation()
  model.value = next.value
  const buttons = (event.currentTarget as HTMLElement).querySelectorAll('button')
  buttons[props.options.indexOf(next)]?.focus()
}
</script>

<template>
  <div class="picks" role="radiogroup" :aria-label="name" @keydown="walk">
    <button
      v-for="o in options"
      :key="o.value"
      type="button"
      role="radio"
      class="plain"
      :disabled="disabled"
      :aria-checked="model === o.value"
      @click="model = o.value"
    >
      {{ o.label }}
    </button>
  </div>
</template>

<style scoped>
.picks {
  display: flex;
  border: 1px solid var(--warp-strong);
  border-radius: 3px;
  background: var(--cloth);
}
button {
  padding: 0 10px;
  height: 30px;
  white-space: nowrap;
}
button + button {
  border-left: 1px solid var(--warp);
}
button[aria-checked='true'] {
  background: var(--amber-wash);
  font-weight: 700;
}
button:disabled {
  color: var(--husk);
  cursor: default;
}
@media (max-width: 420px) {
  button {
    padding: 0 6px;
  }
}
</style>
