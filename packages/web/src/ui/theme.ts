import { ref, watchEffect } from 'vue'

export type ThemeName = 'linen' | 'peat'

const KEY = 'loom-theme'
const kept = localStorage.getItem(KEY)
export const themeName = ref<ThemeName>(
  kept === 'peat' || kept === 'linen'
    ? kept
    : matchMedia('(prefers-color-scheme: dark)').matches
      ? 'peat'
      : 'linen',
)

watchEffect(() => {
  document.documentElement.dataset.theme = themeName.value
  localStorage.setItem(KEY, themeName.value)
})
