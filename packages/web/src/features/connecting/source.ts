import type { Filter, Meaning } from '@loom/core/view'

/** Where counts and searches are asked: of a connection that is being made, or of one that is there. */

export interface Asked {
  takesPart: string[]
  filter: Filter
  meanings: Record<string, Meaning>
}

export interface Counted {
  total: number
  admitted: number
  reading: boolean
  error: string | null
  examples: string[]
}

export interface Found {
  remoteId: string
  collection: string
  title: string
  status: string | null
  assignees: string[]
}

export interface Source {
  count: (asked: Asked) => Promise<Counted>
  search: (
    takesPart: string[],
    words: string,
  ) => Promise<{ found: Found[]; total: number; reading: boolean; error: string | null }>
}
