<script setup lang="ts" generic="T extends string | number | boolean">
import { Dropdown, Menu, MenuItem } from 'ant-design-vue'
import { computed } from 'vue'

/** A choice inside a sentence: the underlined words are what can be changed. */
const props = defineProps<{ options: { value: T; label: string }[]; name: string }>()
const model = defineModel<T>({ required: true })

const label = computed(() => props.options.find(o => o.value === model.value)?.label ?? String(model.value))
</script>

<template>
  <Dropdown :trigger="['click']">
    <button type="button" class="plain choice" :aria-label="`${name}: ${label}`">{{ label }}</button>
    <template #overlay>
      <Menu :selected-keys="[String(model)]">
        <MenuItem v-for="o in options" :key="String(o.value)" @click="model = o.value">{{
          o.label
        }}</MenuItem>
      </Menu>
    </template>
  </Dropdown>
</template>

<style scoped>
.choice {
  font-weight: 700;
  border-bottom: 2px dotted var(--amber);
  line-height: 1.3;
}
</style>
