import { defineStore } from 'pinia'
import { ref } from 'vue'

/** Colleagues who have some of the same days open as this page. */
export const usePresent = defineStore('present', () => {
  const others = ref<{ id: string; name: string }[]>([])
  return { others }
})
