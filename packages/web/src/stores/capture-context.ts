import type { Said } from '@loom/core/view'
import { ref } from 'vue'

/** What a captured item is given so that it stays visible in a filtered view. */
export const captureGiven = ref<{ into: string | null; said: Said }>({ into: null, said: {} })
