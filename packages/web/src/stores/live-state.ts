import { defineStore } from 'pinia'
import { ref } from 'vue'

/** How the page stands with the server, for whoever waits for it. */
export const useLiveState = defineStore('live', () => {
  const stream = ref<'connecting' | 'live' | 'lost'>('connecting')
  /** While something is held, what is under it does not move. */
  const holding = ref(false)
  /** Edits on their way to the server; until it knows them, its answers are older than the screen. */
  const editsUnderway = ref(0)
  return { stream, holding, editsUnderway }
})
