<script setup lang="ts" generic="T extends string">
import { Select } from 'ant-design-vue'
import { onBeforeUnmount, onMounted, ref } from 'vue'

/**
 * One of very many: typing shortens the list. The library's field names lists that are not there while it is closed,
 * and has no name of its own; that is mended here, whenever it draws itself.
 */
const props = defineProps<{
  name: string
  /** `words`: all it is found by, in lower case. */
  options: { value: T; label: string; words: string }[]
}>()
const model = defineModel<T>({ required: true })
const root = ref<HTMLElement | null>(null)
const open = ref(false)

const hasWords = (typed: string, option: unknown): boolean =>
  (option as { words: string }).words.includes(typed.trim().toLowerCase())

function mend(): void {
  const field = root.value?.querySelector('input')
  if (!field) return
  const wanted: Record<string, string | null> = {
    'aria-label': props.name,
    'aria-expanded': String(open.value),
    ...(open.value ? {} : { 'aria-owns': null, 'aria-controls': null, 'aria-activedescendant': null }),
  }
  for (const [attribute, value] of Object.entries(wanted)) {
    if (value === field.getAttribute(attribute)) continue
    if (value === null) field.removeAttribute(attribute)
    else field.setAttribute(attribute, value)
  }
}
const drawn = new MutationObserver(mend)
onMounted(() => {
  if (root.value) drawn.observe(root.value, { subtree: true, attributes: true, childList: true })
  mend()
})
onBeforeUnmount(() => drawn.disconnect())
</script>

<template>
  <span ref="root" class="by-typing">
    <Select
      v-model:value="model"
      show-search
      :options="options"
      :filter-option="hasWords"
      @dropdown-visible-change="isOpen => (open = isOpen)"
    />
  </span>
</template>

<style scoped>
.by-typing,
.by-typing :deep(.ant-select) {
  display: inline-block;
  width: 100%;
}
</style>
