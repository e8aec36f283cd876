import type { InferResponseType } from 'hono/client'
import type { api } from '../../../api/client.ts'

/** Everything that is known of one item. */
export type ItemDetails = InferResponseType<(typeof api.cloth)[':key']['$get'], 200>
