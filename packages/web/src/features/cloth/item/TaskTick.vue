<script setup lang="ts">
/** `round`: it repeats, and its service moves it on for good once this round is done. */
defineProps<{ done: boolean; title: string; disabled: boolean; round?: boolean }>()
const emit = defineEmits<{ toggle: [] }>()
/** The focus stays on the item, for the keyboard. */
function onChange(event: Event): void {
  ;(event.target as HTMLElement).closest<HTMLElement>('[data-key]')?.focus({ preventScroll: true })
  emit('toggle')
}
</script>

<template>
  <input
    type="checkbox"
    class="tick"
    tabindex="-1"
    :checked="done"
    :disabled="disabled"
    :aria-label="
      done ? `Reopen ${title}` : round ? `Complete this occurrence of ${title}` : `Complete ${title}`
    "
    :title="round && !done ? 'This round is done for good; the next one follows' : undefined"
    @click.stop
    @change="onChange"
  />
</template>

<style scoped>
.tick {
  appearance: none;
  width: 12px;
  height: 12px;
  margin: 0;
  border: 1.5px solid var(--peat);
  border-radius: 2px;
  background: transparent;
  flex: none;
  cursor: pointer;
  position: relative;
}
/* A small thing is still easy to hit. */
.tick::before {
  content: '';
  position: absolute;
  inset: -6px;
}
.tick:checked {
  background: var(--peat);
}
.tick:checked::after {
  content: '';
  position: absolute;
  left: 2.5px;
  top: 0;
  width: 3px;
  height: 6px;
  border: solid var(--cloth);
  border-width: 0 1.5px 1.5px 0;
  transform: rotate(40deg);
}
</style>
