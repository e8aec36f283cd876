import type { ClothItem } from '../cloth-item.ts'
import type { Edit } from './edit.ts'
import type { EditViewer, Shows } from './edit-plan.ts'
import { showEstimate } from './estimate-edits.ts'
import { showOwnLayer } from './own-layer-edits.ts'
import { showRemoval } from './removal-edits.ts'
import { showSaid } from './said-edits.ts'
import { showStatus } from './status-edits.ts'
import { showTime } from './time-edits.ts'

const SHOW: Shows = {
  ...showStatus,
  ...showSaid,
  ...showTime,
  ...showEstimate,
  ...showOwnLayer,
  ...showRemoval,
}

/** The item as it will read once the edit has arrived: shown at once, before any service has answered. */
export const shownAfter = (item: ClothItem, edit: Edit, viewer: EditViewer): ClothItem =>
  (SHOW[edit.do] as Shows[Edit['do']])(item, edit as never, viewer)
