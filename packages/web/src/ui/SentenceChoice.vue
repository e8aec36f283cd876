<script setup lang="ts" generic="T extends string | number | boolean">
import { computed } from 'vue'
import FoldOut from './FoldOut.vue'
import { walk } from './walk.ts'

/** A choice inside a sentence: the underlined words are what can be changed. */
const props = defineProps<{ options: { value: T; label: string }[]; name: string }>()
const model = defineModel<T>({ required: true })

const label = computed(() => props.options.find(o => o.value === model.value)?.label ?? String(model.value))

function choose(value: T, close: () => void): void {
  model.value = value
  close()
}
</script>

<template>
  <FoldOut :name="name" :label="label">
    <template #default="{ close }">
      <span
        class="list"
        role="menu"
        :aria-label="name"
        @keydown.down.prevent="e => walk(e.currentTarget as Element, 1)"
        @keydown.up.prevent="e => walk(e.currentTarget as Element, -1)"
      >
        <button
          v-for="o in options"
          :key="String(o.value)"
          type="button"
          class="plain one"
          role="menuitemradio"
          :aria-checked="o.value === model"
          @click="choose(o.value, close)"
        >
          {{ o.label }}
        </button>
      </span>
    </template>
  </FoldOut>
</template>

<style scoped>
.list {
  display: grid;
  margin: -6px -8px;
}
.one {
  padding: 4px 8px;
  border-radius: 2px;
  text-align: left;
}
.one:hover,
.one:focus-visible {
  background: var(--amber-wash);
}
.one[aria-checked='true'] {
  font-weight: 700;
  box-shadow: inset 3px 0 0 var(--amber);
}
</style>
