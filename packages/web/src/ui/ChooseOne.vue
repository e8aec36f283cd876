<script setup lang="ts" generic="T extends string | number">
import { PhCaretDown } from '@phosphor-icons/vue'
import { Select } from 'ant-design-vue'
import { computed, onBeforeUnmount, onMounted, ref, watch } from 'vue'

/**
 * One of several, in a form. The library's field has no accessible name and refers to a list that does not exist
 * while it is closed. Both are corrected after each rendering.
 */
interface Choice {
  value: T
  label: string
  /** All it is found by when one types, in lower case. Without it: its label. */
  words?: string
}
const props = defineProps<{
  name: string
  options: readonly Choice[]
  /** Words for choosing none. */
  none?: string
  /** What stands there while nothing is chosen, where one has to be. */
  placeholder?: string
  /** Typing shortens the list: for very many options. */
  searchable?: boolean
  disabled?: boolean
}>()
const model = defineModel<T | null>({ required: true })
const root = ref<HTMLElement | null>(null)
const open = ref(false)

/** The library takes strings and numbers only, so that none needs a value that no option has. */
const NONE = '\u0000none'
const choices = computed(() => [
  ...(props.none ? [{ value: NONE, label: props.none }] : []),
  ...props.options,
])
const shown = computed(() => model.value ?? (props.none ? NONE : undefined))

function choose(value: unknown): void {
  open.value = false
  model.value = props.options.find(o => o.value === value)?.value ?? null
}
const hasWords = (typed: string, option: unknown): boolean => {
  const { words, label } = option as Choice
  return (words ?? label.toLowerCase()).includes(typed.trim().toLowerCase())
}
/** Inside something that floats, the list has to float in the same layer. */
const layerOf = (field: Element): HTMLElement => field.closest<HTMLElement>('[popover]') ?? document.body

/** What the library says of its list. It does not say it again when the list opens, so it is kept meanwhile. */
const ofList = new Map<string, string>()
function correct(): void {
  const field = root.value?.querySelector('input')
  if (!field) return
  const say = (attribute: string, value: string): void => {
    if (field.getAttribute(attribute) !== value) field.setAttribute(attribute, value)
  }
  say('aria-label', props.name)
  say('aria-expanded', String(open.value))
  for (const attribute of ['aria-owns', 'aria-controls', 'aria-activedescendant']) {
    const value = field.getAttribute(attribute) ?? ofList.get(attribute)
    if (value === undefined) continue
    ofList.set(attribute, value)
    if (open.value) say(attribute, value)
    else field.removeAttribute(attribute)
  }
}
watch(open, correct, { flush: 'post' })
const drawn = new MutationObserver(correct)
onMounted(() => {
  if (root.value) drawn.observe(root.value, { subtree: true, attributes: true, childList: true })
  correct()
})
onBeforeUnmount(() => drawn.disconnect())
</script>

<template>
  <span ref="root" class="one">
    <Select
      :value="shown as never"
      :open="open"
      :options="choices as never"
      :show-search="searchable ?? false"
      :filter-option="hasWords"
      :disabled="disabled ?? false"
      :placeholder="placeholder ?? ''"
      :dropdown-match-select-width="false"
      :get-popup-container="layerOf"
      @dropdown-visible-change="isOpen => (open = isOpen)"
      @change="choose"
    >
      <template #suffixIcon><PhCaretDown :size="13" aria-hidden="true" /></template>
    </Select>
  </span>
</template>

<style scoped>
.one {
  display: inline-flex;
  min-width: 0;
  max-width: 100%;
}
.one :deep(.ant-select) {
  min-width: 0;
  width: 100%;
}
</style>
