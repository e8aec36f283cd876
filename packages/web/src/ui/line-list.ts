import { type Ref, ref } from 'vue'

/** A list under a field: arrows walk it and Enter takes what is chosen, while the focus stays in the field. */
export function useLineList(lines: Ref<readonly { run: () => void }[]>): {
  chosen: Ref<number>
  onKey: (event: KeyboardEvent) => void
} {
  const chosen = ref(0)
  function onKey(event: KeyboardEvent): void {
    const count = lines.value.length
    if (event.key === 'ArrowDown' || event.key === 'ArrowUp') {
      event.preventDefault()
      chosen.value = (chosen.value + (event.key === 'ArrowDown' ? 1 : -1) + count) % Math.max(1, count)
    } else if (event.key === 'Enter' && !event.isComposing) {
      event.preventDefault()
      lines.value[Math.min(chosen.value, count - 1)]?.run()
    }
  }
  return { chosen, onKey }
}
