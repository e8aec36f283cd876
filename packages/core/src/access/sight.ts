import { higher, type Level, lower, reaches } from './level.ts'
import type { Role } from './team.ts'

/**
 * What one person sees of a list or calendar. Decided from who owns it and what was granted; of a single item in it
 * only two things more count: whether it is private, and whether it is given to that person.
 */

/** Whom a level is granted to. The most specific one counts. */
export type Grantee = { kind: 'everybody' } | { kind: 'group'; id: string } | { kind: 'person'; id: string }

export interface Grant {
  to: Grantee
  level: Level
  /** Whether they may show it to others in turn. */
  passOn?: boolean
  /** The member who said so. */
  by?: string
}

/** A list or calendar, as far as sight goes. */
export interface Shared {
  /** The member whose it is; null for the team's, as whose owners coordinators stand. */
  owner: string | null
  grants: readonly Grant[]
  /** It was there before there were levels: private items stay as seen until its owner has chosen once. */
  asBefore: boolean
  /** Whose it is has left: until somebody else signs in for it, it is nobody's to see. */
  isHidden?: boolean
}

/** Somebody who asks. */
export interface Onlooker {
  id: string
  role: Role
  groups: readonly string[]
  /** Members for whom they stand in today. */
  standsFor?: readonly string[]
}

/** `classed`: its service says so (RFC 5545 §3.8.1.3 CLASS). `marked`: somebody said so here. */
export type Privacy = 'open' | 'classed' | 'marked'

export interface CollectionSight {
  /** Of what is not private. */
  open: Level
  /** Of what its service calls private or confidential. */
  classed: Level
  /** Of what was marked private here. */
  closed: Level
  /** At least this of what is given to them. */
  given: Level
  /** Theirs to share and to keep private. A coordinator looks after the team's and does not own it. */
  owns: 'own' | 'looks after' | false
  /** They may show it to others, as much as they see of it. */
  passesOn: boolean
}

export const unseen: CollectionSight = {
  open: 'nothing',
  classed: 'nothing',
  closed: 'nothing',
  given: 'nothing',
  owns: false,
  passesOn: false,
}

/** By which path somebody sees a list or calendar; of a group, which one. */
export type Because =
  | { kind: 'owner' | 'deputy' | 'looks-after' | 'person' | 'everybody' | 'none' }
  | { kind: 'group'; id: string }

/** What the grants alone come to: the person's own, else the higher of their groups', else everybody's. */
export function grantedTo(who: Onlooker, grants: readonly Grant[]): Level {
  return mostSpecific(who, grants)?.level ?? 'nothing'
}

/** The word that counts for somebody. */
export function mostSpecific<G extends Grant>({ id, groups }: Onlooker, grants: readonly G[]): G | undefined {
  const own = grants.find(g => g.to.kind === 'person' && g.to.id === id)
  if (own) return own
  const ofGroups = grants.filter(g => g.to.kind === 'group' && groups.includes(g.to.id))
  if (ofGroups.length > 0) return ofGroups.reduce((x, y) => (higher(x.level, y.level) === x.level ? x : y))
  return grants.find(g => g.to.kind === 'everybody')
}

/** Why somebody sees of it what they see. */
export function becauseOf(who: Onlooker, { owner, grants }: Shared): Because {
  if (owner === who.id) return { kind: 'owner' }
  if (isDeputyOf(who, owner)) return { kind: 'deputy' }
  const grant = mostSpecific(who, grants)
  const isKeptOut = grant?.to.kind === 'person' && grant.level === 'nothing'
  if (owner === null && who.role === 'coordinator' && !isKeptOut) return { kind: 'looks-after' }
  if (!grant) return { kind: 'none' }
  return grant.to.kind === 'group' ? { kind: 'group', id: grant.to.id } : { kind: grant.to.kind }
}

/** A deputy looks after what somebody owns while they are away. What is private stays theirs alone. */
const isDeputyOf = ({ standsFor = [] }: Onlooker, owner: string | null): boolean =>
  owner !== null && standsFor.includes(owner)

/** Whether a word keeps somebody out, whatever else is said, or nobody sees it at present; their own account nothing bars. */
export function isBarred(who: Onlooker, { owner, grants, isHidden }: Shared): boolean {
  if (isHidden) return true
  if (owner === who.id || isDeputyOf(who, owner)) return false
  return grants.some(g => g.to.kind === 'person' && g.to.id === who.id && g.level === 'nothing')
}

export function sightOf(who: Onlooker, shared: Shared): CollectionSight {
  const { owner, grants, asBefore } = shared
  if (isBarred(who, shared)) return unseen
  const most: Level = who.role === 'reader' ? 'everything' : 'change'
  if (owner === who.id)
    return { open: most, classed: most, closed: most, given: most, owns: 'own', passesOn: true }
  const looksAfter = isDeputyOf(who, owner) || (owner === null && who.role === 'coordinator')
  const open = lower(looksAfter ? 'change' : grantedTo(who, grants), most)
  const closed = lower(open, 'busy')
  const owns = looksAfter ? 'looks after' : false
  const passesOn = looksAfter || (who.role !== 'reader' && mostSpecific(who, grants)?.passOn === true)
  return { open, classed: asBefore ? open : closed, closed, given: 'everything', owns, passesOn }
}

/** @param isGiven whether the item is given to whoever asks */
export function levelOfItem(
  { open, classed, closed, given }: CollectionSight,
  { privacy, isGiven }: { privacy: Privacy; isGiven: boolean },
): Level {
  const level = { open, classed, marked: closed }[privacy]
  return isGiven ? higher(level, given) : level
}

/** Whoever a task is given to may complete it, unless they are barred. */
export const mayComplete = (level: Level, isGiven: boolean, role: Role): boolean =>
  role !== 'reader' && (level === 'change' || (isGiven && level === 'everything'))

/**
 * Whether somebody to whom a list was passed on may say this of it: they show others as much as they see themselves, and
 * take back what they gave. What its owner said to keep somebody out stays said, and only its owner lets others pass it on.
 * @param own as much as they see of it
 * @param before what is said of those now
 */
export function mayPassOn(
  own: Level,
  me: string,
  before: Grant | undefined,
  { level, passOn }: { level: Level | null; passOn: boolean },
): boolean {
  if (passOn || before?.passOn) return false
  const isMine = before?.by === me
  if (level === null) return isMine
  if (level === 'nothing' || !reaches(own, level)) return false
  return before === undefined || isMine || (before.level !== 'nothing' && reaches(level, before.level))
}
