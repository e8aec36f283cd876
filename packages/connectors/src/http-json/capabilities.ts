import type { Capabilities, DatePrecision } from '../connector.ts'
import type { ServiceDescription } from './description.ts'

/** What a described service can do, known before it is asked. */
export function capabilitiesOf(description: ServiceDescription): Capabilities {
  const { fields, operations } = description
  const writable = (name: keyof typeof fields): boolean =>
    fields[name] !== undefined && fields[name]?.to !== null
  const status = writable('status') && operations.change !== undefined
  const { summary } = fields
  const precision = (field: typeof fields.start): DatePrecision =>
    field && field.as !== 'day' ? 'minute' : 'day'
  return {
    canHold: {
      estimate: writable('estimatedDuration'),
      location: false,
      due: writable('due'),
      start: writable('start'),
      notes: writable('description'),
      priority: writable('priority'),
    },
    can: {
      create: operations.create !== undefined,
      change: operations.change !== undefined,
      complete: operations.complete !== undefined || operations.status !== undefined || status,
      delete: operations.delete !== undefined,
    },
    summaryMaxLength: summary?.as === 'text' ? (summary.maxLength ?? null) : null,
    datePrecision: { start: precision(fields.start ?? fields.due), due: precision(fields.due) },
    preconditions: description.preconditions,
    listing: 'may-lag',
    notifications: description.notifications !== undefined,
    batch: description.batch?.max ?? 1,
    marksNotes: fields.uid === undefined && writable('description') && operations.change !== undefined,
  }
}
