import type { InferResponseType } from 'hono/client'
import type { api } from '../../api/client.ts'

/** The team as the server tells it. */
export type Team = InferResponseType<typeof api.team.$get, 200>
export type Teammate = Team['members'][number]
export type Invitation = Team['invitations'][number]
