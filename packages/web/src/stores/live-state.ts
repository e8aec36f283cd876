import { ref } from 'vue'

/** How the page stands with the server, for whoever waits for it. */

export const liveState = ref<'connecting' | 'live' | 'lost'>('connecting')
/** While something is held, what is under it does not move. */
export const holding = ref(false)

/** Edits on their way to the server; until it knows them, its answers are older than the screen. */
export const editsUnderway = ref(0)
