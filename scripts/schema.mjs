// Writes docs/service-description.schema.json from the schema in the code; a test holds the two together.
import { writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { z } from 'zod'
import { ServiceDescription } from '../packages/connectors/src/index.ts'
import { root } from './setup.mjs'

const schema = z.toJSONSchema(ServiceDescription, { io: 'input' })
writeFileSync(join(root, 'docs/service-description.schema.json'), `${JSON.stringify(schema, null, 2)}\n`)
