import { type Level, LEVEL_WORDS } from '@loom/core/view'
import type { InferResponseType } from 'hono/client'
import type { api } from '../../api/client.ts'

/** Who sees what, as the server tells it, and the words for it. */

export type Told = InferResponseType<typeof api.sharing.$get, 200>
export type SharedList = Told['lists'][number]
export type Because = SharedList['reached'][number]['because']
/** Members, or whoever has a secret address. */
export type To = SharedList['grants'][number]['to'] | { kind: 'link'; id: string }

export interface Column {
  key: string
  to: To
  name: string
}

export const keyOf = (to: To): string => (to.kind === 'everybody' ? 'everybody' : `${to.kind} ${to.id}`)

export const columnsOf = (told: Told): Column[] => {
  const of = (to: To, name: string): Column => ({ key: keyOf(to), to, name })
  return [
    of({ kind: 'everybody' }, 'Everybody'),
    ...told.groups.map(g => of({ kind: 'group', id: g.id }, g.name)),
    ...told.people.filter(p => p.id !== told.me).map(p => of({ kind: 'person', id: p.id }, p.name)),
    ...told.links.map(l => of({ kind: 'link', id: l.id }, l.name)),
  ]
}

/** What is said of a cell itself; null where nothing is. */
export const grantOf = (list: SharedList, { to, key }: Column): Level | null =>
  (to.kind === 'link'
    ? list.shownBy.find(s => s.link === to.id)?.level
    : list.grants.find(g => keyOf(g.to) === key)?.level) ?? null

/** What is said of a cell: how much they see, and whether they may show it to others. */
export interface Said {
  level: Level | null
  passOn: boolean
}
export const saidOf = (list: SharedList, column: Column): Said => ({
  level: grantOf(list, column),
  passOn: list.grants.some(g => keyOf(g.to) === column.key && g.passOn === true),
})

/** What it comes to: for a person, by whichever path. */
export const levelIn = (list: SharedList, column: Column): Level => {
  const { to } = column
  return to.kind === 'person'
    ? (list.reached.find(r => r.person === to.id)?.level ?? 'nothing')
    : (grantOf(list, column) ?? 'nothing')
}

export const levelWords = (level: Level): string => LEVEL_WORDS[level].name

/** Why a person sees what they see. */
export function becauseWords(told: Told, because: Because): string {
  if (because.kind === 'group')
    return `as one of ${told.groups.find(g => g.id === because.id)?.name ?? 'a group'}`
  return {
    owner: 'it is theirs',
    deputy: 'as a deputy',
    'looks-after': 'as a coordinator, who looks after what is the team’s',
    person: 'by a word of their own',
    everybody: 'as everybody',
    none: 'nothing is shared',
  }[because.kind]
}

/** One cell that is chosen, or changed and not saved yet. */
export interface Cell {
  list: string
  column: string
}
export const cellKey = ({ list, column }: Cell): string => `${list} ${column}`
