import type { FieldChange } from '@loom/core'
import type { Sql } from '../../data/database.ts'
import { namesInCollections } from '../../data/repositories/people.ts'

/** A list or calendar, and what was changed in it. */
interface Written {
  collection: string
  fields: FieldChange[]
}

const isOfPeople = ({ field }: FieldChange): boolean => field === 'people'

/** The journal keeps whom a task is given to by their ids at its service; people are told names, where they are known. */
export async function withNames<T extends Written>(sql: Sql, lines: readonly T[]): Promise<T[]> {
  const collections = [...new Set(lines.flatMap(l => (l.fields.some(isOfPeople) ? [l.collection] : [])))]
  if (collections.length === 0) return [...lines]
  const rows = await namesInCollections(sql, { collections })
  const names = new Map(rows.map(r => [`${r.collection} ${r.id}`, r.name]))
  const named = (collection: string, value: unknown): unknown =>
    Array.isArray(value) ? value.map((id: unknown) => names.get(`${collection} ${String(id)}`) ?? id) : value
  return lines.map(line => ({
    ...line,
    fields: line.fields.map(f =>
      isOfPeople(f)
        ? { ...f, before: named(line.collection, f.before), after: named(line.collection, f.after) }
        : f,
    ),
  }))
}
