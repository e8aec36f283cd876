<script setup lang="ts">
import { PhCaretDown } from '@phosphor-icons/vue'
import { Dropdown, Menu, MenuDivider, MenuItem } from 'ant-design-vue'
import { computed } from 'vue'

/** Which list or calendar one side of the rule is. */
const props = defineProps<{
  options: { value: string; label: string; disabled: boolean }[]
  name: string
  empty: string
  disabled: boolean
  /** Accounts at which a new one can be made. */
  makers: readonly { id: string; name: string }[]
}>()
const emit = defineEmits<{ make: [connection: string] }>()
const model = defineModel<string | undefined>({ required: true })

const label = computed(() => props.options.find(o => o.value === model.value)?.label)
</script>

<template>
  <Dropdown :trigger="['click']" :disabled="disabled">
    <button
      type="button"
      class="plain choice"
      :disabled="disabled"
      :aria-label="`${name}: ${label ?? empty}`"
    >
      <span :class="{ quiet: !label }">{{ label ?? empty }}</span>
      <PhCaretDown v-if="!disabled" :size="14" aria-hidden="true" />
    </button>
    <template #overlay>
      <Menu class="long">
        <MenuItem v-for="o in options" :key="o.value" :disabled="o.disabled" @click="model = o.value">{{
          o.label
        }}</MenuItem>
        <MenuItem v-if="options.length === 0" key="none" disabled
          >None takes part yet; choose under Connections</MenuItem
        >
        <MenuDivider v-if="makers.length > 0" />
        <MenuItem v-for="m in makers" :key="`new ${m.id}`" @click="emit('make', m.id)"
          >New calendar at {{ m.name }}…</MenuItem
        >
      </Menu>
    </template>
  </Dropdown>
</template>

<style scoped>
.long {
  max-height: min(460px, 60vh);
  overflow: auto;
}
.choice {
  display: flex;
  justify-content: space-between;
  align-items: center;
  gap: 8px;
  width: 100%;
  padding: 4px 10px;
  text-align: left;
  border: 1px solid var(--warp-strong);
  border-radius: 3px;
  background: var(--cloth);
}
.choice:disabled {
  border-color: transparent;
  padding-left: 0;
  cursor: default;
}
</style>
