import type { Context as Call } from 'hono'
import type { NotYet } from '../team/agreement.ts'

/** It is not done yet: others have to agree, and were asked (202), unless too much is asked already. */
export const asked = (c: Call, { asked: all, reason }: NotYet) =>
  all.length === 0 ? c.json({ reason }, 422) : c.json({ asked: all, reason }, 202)
