import {
  PhCoffee,
  PhDrop,
  PhFlag,
  PhLamp,
  PhLeaf,
  PhMoon,
  PhPath,
  PhSun,
  PhUsers,
  PhWrench,
} from '@phosphor-icons/vue'
import type { SavedView } from './use-view.ts'

/** The signs that a saved view can have. */
export const VIEW_SIGNS: Record<SavedView['icon'], typeof PhLeaf> = {
  bead: PhDrop,
  leaf: PhLeaf,
  sun: PhSun,
  moon: PhMoon,
  lamp: PhLamp,
  wrench: PhWrench,
  people: PhUsers,
  flag: PhFlag,
  cup: PhCoffee,
  path: PhPath,
}
