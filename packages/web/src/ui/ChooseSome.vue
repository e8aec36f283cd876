<script setup lang="ts" generic="T extends string">
import FoldOut from './FoldOut.vue'

/** Some of several, behind words in a sentence. */
const props = defineProps<{
  name: string
  label: string
  options: { value: T; label: string; hint?: string; indent?: boolean; disabled?: boolean }[]
  /** What stands there when nothing is chosen. */
  none?: string
}>()
const model = defineModel<T[]>({ required: true })

function toggle(value: T): void {
  const on = model.value.includes(value)
  model.value = props.options.map(o => o.value).filter(v => (v === value ? !on : model.value.includes(v)))
}
</script>

<template>
  <FoldOut :name="name" :label="label">
    <span v-for="o in options" :key="o.value" class="option" :class="{ indent: o.indent }">
      <label>
        <input
          type="checkbox"
          :checked="model.includes(o.value)"
          :disabled="o.disabled"
          @change="toggle(o.value)"
        />
        {{ o.label }}
      </label>
      <span v-if="o.hint" class="quiet">{{ o.hint }}</span>
    </span>
    <button v-if="none && model.length > 0" type="button" class="plain all" @click="model = []">
      {{ none }}
    </button>
    <slot />
  </FoldOut>
</template>

<style scoped>
.option {
  display: flex;
  justify-content: space-between;
  gap: 14px;
}
.option label {
  display: flex;
  align-items: center;
  gap: 7px;
  cursor: pointer;
}
.indent {
  padding-left: 18px;
}
.all {
  justify-self: start;
  color: var(--amber);
  text-decoration: underline;
}
</style>
