import { type ClothItem, noBlocks } from './cloth-item.ts'

/** Items as they are sent: usual values are left out, which makes a week a third as long. */

const USUAL = {
  onlyBusy: false,
  done: false,
  cancelled: false,
  movable: true,
  fixedBecause: null,
  onlyLook: false,
  movableByOthers: false,
  completable: false,
  people: [],
  due: null,
  dueAt: null,
  overdue: false,
  priority: 0,
  status: null,
  serviceStatus: '',
  categories: [],
  estimate: null,
  location: '',
  notes: '',
  busy: true,
  recurring: false,
  tooOften: null,
  eventKind: 'other',
  week: null,
  putBy: null,
  leftOut: false,
  slips: 0,
  planHere: null,
  atDeadline: false,
  blocks: noBlocks,
  partOf: null,
  of: null,
  batch: [],
  conflict: false,
  pending: false,
} as const satisfies Partial<ClothItem>

type Usual = keyof typeof USUAL
export type SlimItem = Omit<ClothItem, Usual> & Partial<Pick<ClothItem, Usual>>

const isUsual = (key: string, value: unknown): boolean => {
  if (!(key in USUAL)) return false
  const usual: unknown = USUAL[key as Usual]
  if (Array.isArray(usual)) return Array.isArray(value) && value.length === 0
  return value === usual
}

export const slim = (item: ClothItem): SlimItem =>
  Object.fromEntries(
    Object.entries(item).filter(([key, value]) => !isUsual(key, value)),
  ) as unknown as SlimItem

export const whole = (item: SlimItem): ClothItem => ({
  ...USUAL,
  people: [],
  categories: [],
  batch: [],
  ...item,
})
