import { z } from 'zod'

/** Who is in a workspace, and who may change that. */

/** `coordinator`: looks after what is the team's, and its people. `reader`: looks only. */
export const Role = z.enum(['coordinator', 'member', 'reader'])
export type Role = z.infer<typeof Role>

export interface Membership {
  id: string
  role: Role
}

export type TeamAct =
  | { do: 'role'; of: string; role: Role }
  /** Somebody leaves, or is removed. */
  | { do: 'end'; of: string }

export type TeamVerdict = { kind: 'may' } | { kind: 'may-not'; reason: string } | { kind: 'nobody' }

/** Whether `by` may do this to the team as it is now. At least one coordinator stays, whoever acts. */
export function mayChangeTeam(team: readonly Membership[], by: string, act: TeamAct): TeamVerdict {
  const of = team.find(m => m.id === act.of)
  const actor = team.find(m => m.id === by)
  if (!of || !actor) return { kind: 'nobody' }
  const leaves = act.do === 'end' && act.of === by
  if (actor.role !== 'coordinator' && !leaves)
    return { kind: 'may-not', reason: 'Only coordinators change who is in the workspace.' }
  const after = team.flatMap(m =>
    m.id !== act.of ? [m] : act.do === 'end' ? [] : [{ ...m, role: act.role }],
  )
  if (after.some(m => m.role === 'coordinator')) return { kind: 'may' }
  return {
    kind: 'may-not',
    reason: 'A workspace needs a coordinator. Make somebody else one first.',
  }
}

export const ROLE_WORDS: Record<Role, { name: string; may: string }> = {
  coordinator: { name: 'Coordinator', may: 'looks after what is the team’s, and its people' },
  member: { name: 'Member', may: 'plans, edits and connects services' },
  reader: { name: 'Reader', may: 'sees, and changes nothing' },
}
