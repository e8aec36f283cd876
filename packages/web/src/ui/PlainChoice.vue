<script setup lang="ts" generic="T extends string | number">
import { PhCaretDown } from '@phosphor-icons/vue'

/** One of several on the Cloth: the browser's own list, so that the Cloth does not wait for the library. */
const props = defineProps<{
  name: string
  options: { value: T; label: string }[]
  /** Words for choosing none. */
  none?: string
  disabled?: boolean
}>()
const model = defineModel<T | null>({ required: true })

function choose(event: Event): void {
  const index = (event.target as HTMLSelectElement).selectedIndex - (props.none ? 1 : 0)
  model.value = props.options[index]?.value ?? null
}
</script>

<template>
  <span class="one" :class="{ disabled }">
    <select :aria-label="name" :disabled="disabled" @change="choose">
      <option v-if="none" :selected="model === null">{{ none }}</option>
      <option v-for="o in options" :key="o.value" :selected="o.value === model">{{ o.label }}</option>
    </select>
    <PhCaretDown :size="13" aria-hidden="true" />
  </span>
</template>

<style scoped>
.one {
  position: relative;
  display: inline-flex;
  align-items: center;
  min-width: 0;
}
select {
  font: inherit;
  line-height: 1.4;
  color: inherit;
  appearance: none;
  width: 100%;
  min-height: 30px;
  padding: 3px 26px 3px 9px;
  background: var(--cloth);
  border: 1px solid var(--warp-strong);
  border-radius: 3px;
  text-overflow: ellipsis;
}
select:hover {
  border-color: var(--amber);
}
.one svg {
  position: absolute;
  right: 8px;
  pointer-events: none;
}
.disabled {
  color: var(--husk);
}
</style>
