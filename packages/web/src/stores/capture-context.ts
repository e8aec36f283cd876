import type { Said } from '@loom/core/view'
import { ref } from 'vue'

/** What something written down now is given so that it stays in sight where one is: a filtered view says so. */
export const captureGiven = ref<{ into: string | null; said: Said }>({ into: null, said: {} })
