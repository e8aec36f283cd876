<script setup lang="ts">
import type { RuleSettings } from '@loom/core/view'
import { Checkbox } from 'ant-design-vue'
import { computed } from 'vue'
import FoldOut from '../../ui/FoldOut.vue'

/** Which lists or calendars of a side take part: the chosen one, further ones, or every one of its service. */
const props = defineProps<{
  side: 'a' | 'b'
  name: string
  itemKind: 'task' | 'event'
  home: string
  options: readonly { value: string; label: string; disabled: boolean }[]
}>()
const settings = defineModel<RuleSettings>({ required: true })

const word = computed(() => (props.itemKind === 'task' ? 'list' : 'calendar'))
const also = computed(() => settings.value.also[props.side])
const all = computed({
  get: () => settings.value.all[props.side],
  set: every => (settings.value.all[props.side] = every),
})
const others = computed(() => props.options.filter(o => o.value !== props.home))
const label = computed(() =>
  all.value
    ? `of every ${word.value} of its service, later ones too`
    : also.value.length > 0
      ? `of this and ${also.value.length} more`
      : 'of this one only',
)
function choose(id: string, takesPart: boolean): void {
  const without = also.value.filter(a => a !== id)
  settings.value.also[props.side] = takesPart ? [...without, id] : without
}
</script>

<template>
  <FoldOut :name="name" :label="label">
    <span class="quiet">New {{ itemKind }}s go to the {{ word }} chosen above. Beside it:</span>
    <Checkbox v-model:checked="all">every {{ word }} of its service, later ones too</Checkbox>
    <template v-if="!all">
      <Checkbox
        v-for="o in others"
        :key="o.value"
        :checked="also.includes(o.value)"
        :disabled="o.disabled"
        @update:checked="(on: boolean) => choose(o.value, on)"
        >{{ o.label }}</Checkbox
      >
    </template>
  </FoldOut>
</template>

<style scoped>
:deep(.ant-checkbox-wrapper) {
  margin: 0;
  font-weight: 400;
}
</style>
