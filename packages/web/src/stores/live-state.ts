import { defineStore } from 'pinia'
import { ref } from 'vue'

/** The state of the page's connection to the server. */
export const useLiveState = defineStore('live', () => {
  const stream = ref<'connecting' | 'live' | 'lost'>('connecting')
  /** While something is held, what is under it does not move. */
  const holding = ref(false)
  /** Edits on their way to the server; until it knows them, its answers are older than the screen. */
  const editsUnderway = ref(0)
  return { stream, holding, editsUnderway }
})
