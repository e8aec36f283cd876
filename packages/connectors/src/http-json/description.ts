import { TaskStatus } from '@loom/core'
import { z } from 'zod'

/**
 * A service description: how to speak to a task manager over JSON and HTTP, told as data. This schema is
 * published as docs/service-description.schema.json and explained in docs/connectors.md.
 *
 * `{name}` in a path, query, header or body stands for a variable: collection, id, uid, revision (revisionNumber:
 * the same as a number), since, status, fields (an object), callback, secret, and what earlier steps kept.
 */
const Pointer = z
  .string()
  .max(200)
  .regex(/^(\/([^~/]|~[01])*)*$/, 'must be a JSON Pointer (RFC 6901), such as /tasks or /owner/name')
  .describe('JSON Pointer (RFC 6901)')
const Text = z.string().min(1).max(300)
const Scalar = z.union([z.string(), z.number(), z.boolean(), z.null()])
type Json = z.infer<typeof Scalar> | Json[] | { [key: string]: Json }
const Json: z.ZodType<Json> = z.lazy(() => z.union([Scalar, z.array(Json), z.record(z.string(), Json)]))

/** Simple words and bars: nothing that could take long to match. */
const Pattern = z
  .string()
  .max(100)
  .regex(/^[\w |-]*$/, 'may hold words, with | between them')

const Condition = z.strictObject({ at: Pointer, is: Scalar })

const requestShape = {
  method: z.enum(['GET', 'POST', 'PUT', 'PATCH', 'DELETE']).default('GET'),
  path: z.string().max(500).describe('After the base address; variables are encoded'),
  query: z.record(z.string(), z.string()).default({}).describe('Left out where a variable has no value'),
  headers: z.record(z.string(), z.string()).default({}),
  body: Json.optional(),
}
const Request = z.strictObject(requestShape)
export type Request = z.infer<typeof Request>

const Step = z.strictObject({
  ...requestShape,
  ok: z.array(z.number().int()).default([200, 201, 202, 204]).describe('Statuses that mean success'),
  when: Condition.optional().describe('What must also be so in the answer'),
  conflict: z.array(z.number().int()).default([409, 412]).describe('Statuses that say: changed meanwhile'),
  item: Pointer.optional().describe('Where in the answer the item stands'),
  keep: z.record(z.string(), Pointer).default({}).describe('Variables for the steps after this one'),
})
export type Step = z.infer<typeof Step>
const Operation = z.strictObject({ steps: z.array(Step).min(1).max(5) })
export type Operation = z.infer<typeof Operation>

/** How one value is read and written. `to` is where it goes inside {fields}; null: it is only read. */
const place = {
  at: Pointer.describe('In the item; {column} is the column that has this role'),
  to: Pointer.nullable().optional().describe('In {fields}; the same as `at` when left out'),
  role: z
    .string()
    .optional()
    .describe('A role of `columns`, for services with columns of their users’ making'),
}
const Field = z.discriminatedUnion('as', [
  z.strictObject({ as: z.literal('text'), ...place, maxLength: z.number().int().min(1).optional() }),
  z.strictObject({ as: z.literal('day'), ...place }),
  z.strictObject({
    as: z.literal('day-and-hour'),
    ...place,
    hourAt: Pointer.describe('HH:MM, in the account’s zone'),
  }),
  z.strictObject({
    as: z.literal('instant'),
    ...place,
    form: z.enum(['iso', 'epoch-seconds', 'epoch-ms']).default('iso'),
  }),
  z.strictObject({
    as: z.literal('moment'),
    ...place,
    endAt: Pointer.optional().describe('Makes it a span; its length becomes the estimate'),
  }),
  z.strictObject({
    as: z.literal('minutes'),
    ...place,
    unit: z.number().positive().describe('Minutes in one'),
    whole: z.boolean().default(false).describe('It keeps whole units only'),
  }),
  z.strictObject({ as: z.literal('status'), ...place }),
  z.strictObject({ as: z.literal('priority'), ...place, number: z.boolean().default(false) }),
  z.strictObject({
    as: z.literal('people'),
    ...place,
    each: Pointer.default('').describe('The id inside each of them'),
    number: z.boolean().default(false),
    single: z.boolean().default(false).describe('One value instead of a list'),
  }),
  z.strictObject({ as: z.literal('words'), ...place, each: Pointer.default('') }),
  z.strictObject({ as: z.literal('present'), ...place }).describe('Whether there is anything'),
])
export type Field = z.infer<typeof Field>

export const FIELD_NAMES = [
  'uid',
  'summary',
  'description',
  'status',
  'start',
  'due',
  'estimatedDuration',
  'priority',
  'categories',
  'assignees',
  'parent',
  'recurring',
  'occurrence',
  'completed',
  'created',
  'lastModified',
] as const
export type FieldName = (typeof FIELD_NAMES)[number]

const StatusChoice = z.strictObject({ id: z.string(), name: Text, means: TaskStatus })
const Statuses = z.union([
  z.array(StatusChoice).min(1).describe('The same everywhere'),
  z
    .strictObject({
      at: Pointer,
      id: Pointer,
      name: Pointer,
      completed: Pointer.optional().describe('True for those that end it'),
    })
    .describe('In each collection'),
  z
    .strictObject({ role: z.string(), at: Pointer, id: Pointer, name: Pointer })
    .describe('The words of a column'),
])

const Paging = z.discriminatedUnion('kind', [
  z.strictObject({ kind: z.literal('none') }),
  z.strictObject({ kind: z.literal('cursor'), next: Pointer, param: Text }),
  z.strictObject({
    kind: z.literal('page'),
    param: Text,
    pages: Pointer,
    first: z.number().int().default(1),
  }),
  z.strictObject({
    kind: z.literal('offset'),
    param: Text,
    more: Pointer.optional().describe('True while there is more; otherwise `total` tells'),
  }),
  z.strictObject({ kind: z.literal('link') }).describe('Link header with rel="next" (RFC 8288)'),
])
export type Paging = z.infer<typeof Paging>

const Delta = z.discriminatedUnion('kind', [
  z.strictObject({ kind: z.literal('none') }),
  z.strictObject({
    kind: z.literal('token'),
    first: Pointer.describe('In the first page of the whole list'),
    request: Request,
    items: Pointer,
    left: Pointer.optional().describe('Ids of what is no longer there'),
    next: Pointer.describe('The token for next time'),
    refused: z.array(z.number().int()).default([404, 410]),
  }),
  z.strictObject({
    kind: z.literal('updated-since'),
    param: Text.describe('Goes where the paging parameter goes'),
    field: Pointer.describe('When an item was last changed, by the service’s own clock'),
    overlapSeconds: z.number().int().min(0).default(60),
    fullEveryMinutes: z.number().int().min(1).default(10).describe('The whole list, for what was removed'),
  }),
])

const SignIn = z.discriminatedUnion('kind', [
  z.strictObject({ kind: z.literal('bearer'), label: Text.default('Access key') }),
  z.strictObject({ kind: z.literal('basic') }),
  z.strictObject({ kind: z.literal('header'), name: Text, label: Text.default('Access key') }),
  z.strictObject({
    kind: z.literal('oauth2'),
    authorize: Text.describe('Path after the base address'),
    token: Text,
    clientId: Text,
    scope: z.string().default(''),
  }),
])

export const ServiceDescription = z
  .strictObject({
    format: z.literal('amber-loom.service/1'),
    name: Text.max(60),
    about: z.string().max(400).default(''),
    address: z.string().max(200).default('').describe('What an address of it looks like'),
    base: z.string().max(200).default('').describe('Path between the address and every request'),
    signIn: SignIn,
    account: z.strictObject({
      request: Request,
      id: Pointer.describe('Must be there; otherwise this is another service'),
      name: Pointer.optional().describe('Without it, an account is called by its user name and is nobody'),
      zone: Pointer.optional(),
    }),
    people: z
      .strictObject({
        request: Request,
        items: Pointer,
        id: Pointer,
        name: Pointer,
        email: Pointer.optional(),
      })
      .optional(),
    collections: z.strictObject({
      request: Request,
      items: Pointer,
      id: Pointer,
      name: Pointer,
      colour: Pointer.optional(),
      count: Pointer.optional(),
      parent: Pointer.optional(),
      allowed: Pointer.optional().describe('False: it is seen, but may not be read'),
      changed: Pointer.optional().describe('Changes whenever anything in the list does: a token, an etag'),
      split: z
        .strictObject({
          kinds: z.array(z.string()).min(1),
          words: Pointer,
          id: Pointer,
          name: Pointer,
          cell: Pointer.describe('In an item, with {column}'),
        })
        .optional()
        .describe('Each word of such a column makes a list of its own'),
    }),
    columns: z
      .strictObject({
        at: Pointer.describe('In a collection'),
        id: Pointer,
        name: Pointer,
        kind: Pointer,
        roles: z.record(
          z.string(),
          z.strictObject({ label: Text, kinds: z.array(z.string()).min(1), like: Pattern.default('') }),
        ),
      })
      .optional(),
    list: z.strictObject({
      request: Request,
      items: Pointer,
      total: Pointer.optional(),
      paging: Paging.default({ kind: 'none' }),
      behindSeconds: z
        .number()
        .int()
        .min(0)
        .max(3600)
        .default(10)
        .describe('For how long a list may still be without what was just made'),
    }),
    delta: Delta.default({ kind: 'none' }),
    item: z.strictObject({
      request: Request,
      at: Pointer,
      id: Pointer,
      collection: Pointer,
      revision: Pointer.nullable().default(null).describe('Null: none; the content stands for it'),
      link: z.string().optional().describe('Where a person opens it; variables as in a path'),
    }),
    fields: z.partialRecord(z.enum(FIELD_NAMES), Field),
    statuses: Statuses,
    priorities: z
      .array(z.strictObject({ id: z.string(), name: Text, means: z.number().int().min(0).max(9) }))
      .default([]),
    operations: z.strictObject({
      create: Operation.optional(),
      change: Operation.optional(),
      status: Operation.optional().describe('Sets {status}; without it, a status is a field like any other'),
      complete: Operation.optional(),
      reopen: Operation.optional(),
      delete: Operation.optional(),
    }),
    batch: z
      .strictObject({
        request: Request.describe('Its body holds {changes}'),
        max: z.number().int().min(2).max(500),
        create: Json,
        change: Json,
        delete: Json,
        results: Pointer,
        status: Pointer,
        item: Pointer,
        error: Pointer.optional(),
      })
      .optional()
      .describe('Several writes in one call, each with an outcome of its own'),
    preconditions: z.boolean().default(false).describe('Whether the service itself checks {revision}'),
    failure: z
      .strictObject({
        ok: Condition,
        code: Pointer,
        words: Pointer.optional(),
        waitSeconds: Pointer.optional(),
        slowed: z.array(z.string()).default([]),
        signedOut: z.array(z.string()).default([]),
        missing: z.array(z.string()).default([]),
        conflict: z.array(z.string()).default([]),
      })
      .optional()
      .describe('For services that answer 200 to everything'),
    limits: z
      .strictObject({ requests: z.number().int().min(1), perSeconds: z.number().positive() })
      .optional(),
    notifications: z
      .strictObject({
        request: Request,
        signature: z.strictObject({ header: Text, prefix: z.string().default('') }),
        item: Pointer.optional(),
        at: Pointer.optional().describe('When it was made, ISO 8601: an old one is not taken'),
      })
      .optional(),
    chat: z
      .strictObject({
        post: Request.describe('Writes {text} into the channel {collection}'),
        maxLength: z.number().int().min(100).max(100_000).default(4000),
        status: Request.optional().describe('Says {text} of oneself until {until}, ISO 8601'),
        clear: Request.optional().describe('Says nothing of oneself any more'),
      })
      .optional()
      .describe('For services in which people write to one another: their lists are channels'),
    clock: z
      .strictObject({ at: Pointer.describe('In the account’s answer, ISO 8601') })
      .optional()
      .describe('Where the service tells its time; otherwise its Date header does'),
  })
  .describe('How Amber Loom speaks to one task manager')
export type ServiceDescription = z.infer<typeof ServiceDescription>

/** Validation errors as sentences that name the path. */
export function describeErrors(error: z.ZodError): string[] {
  return error.issues.slice(0, 30).map(issue => {
    const path = issue.path.map(p => `/${String(p)}`).join('') || '/'
    return `${path}: ${issue.message}`
  })
}

/** Parses JSON text as a description; what is wrong names its path. */
export function readDescription(
  text: string,
): { ok: true; description: ServiceDescription } | { ok: false; errors: string[] } {
  let json: unknown
  try {
    json = JSON.parse(text)
  } catch (error) {
    return { ok: false, errors: [`/: it is not JSON. ${error instanceof Error ? error.message : ''}`] }
  }
  const result = ServiceDescription.safeParse(json)
  return result.success
    ? { ok: true, description: result.data }
    : { ok: false, errors: describeErrors(result.error) }
}
