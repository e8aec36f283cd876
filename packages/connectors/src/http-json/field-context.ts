import { type Meaning, ofOwn } from '@loom/core'
import type { Field, ServiceDescription } from './description.ts'

/** What reading or writing the items of one collection goes by. */
export interface FieldContext {
  description: ServiceDescription
  meaning: Meaning
  /** In which the service tells its local hours. */
  zone: string
  /** Ids of words, such as those of a column, and what they are called. */
  words: Map<string, string>
}

/** A field's pointer with the user's column in it; null where no column has the role. */
export function pointerOf(pointer: string, field: Field, meaning: Meaning): string | null {
  if (!field.role) return pointer
  const column = ofOwn(meaning.columns, field.role)
  return column ? pointer.replace('{column}', column.replace(/~/g, '~0').replace(/\//g, '~1')) : null
}
