import type { ClothItem } from '@loom/core/view'
import { shallowRef } from 'vue'

/** What the field in the band has found just now: it can be picked up from there and dropped on the Cloth. */
export const foundItems = shallowRef<readonly ClothItem[]>([])
