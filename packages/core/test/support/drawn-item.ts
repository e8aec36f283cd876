import { type ClothItem, whole } from '../../src/index.ts'

/** An open task as the Cloth draws it, with what a test says otherwise. */
export const drawnItem = (
  key: string,
  place: ClothItem['place'],
  rest: Partial<ClothItem> = {},
): ClothItem => ({
  ...whole({ key, kind: 'task', title: key, place, sources: [] }),
  completable: true,
  status: 'needs-action',
  eventKind: 'task block',
  ...rest,
})
