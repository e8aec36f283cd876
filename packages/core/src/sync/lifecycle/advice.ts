import type { RuleSettings } from '../model/settings.ts'
import type { Rule } from '../model/types.ts'
import type { PlanInput } from './decide.ts'
import { isAdmitted, isOpen } from './taking-part.ts'

/** Why a rule from tasks to a calendar would make nothing, and one step that changes it. */
export interface Advice {
  words: string
  step: { label: string; set: Partial<Pick<RuleSettings, 'date' | 'noHour' | 'filter'>> } | null
}

/** Null where something takes part, or nothing is to be made from the tasks. */
export function adviceFor(
  rule: Rule,
  { pairs, untied, now }: Pick<PlanInput, 'pairs' | 'untied' | 'now'>,
): Advice | null {
  const { settings, kinds } = rule
  if (kinds.a !== 'task' || kinds.b !== 'event' || settings.made.a !== 'all' || pairs.length > 0) return null
  const open = untied.a.filter(m => m.presence === 'present' && isOpen(m.item))
  const among = open.filter(m => isAdmitted(rule, 'a', m.item, now))
  if (open.length === 0) return { words: 'There is no open task on this side yet.', step: null }
  const all = (n: number): string => (n === 1 ? 'The only open task has' : `None of ${n} open tasks has`)
  if (among.length === 0)
    return {
      words: `${open.length === 1 ? 'The only open task does not pass' : `None of ${open.length} open tasks passes`} the filter.`,
      step: { label: 'Take all of them', set: { filter: { ...settings.filter, a: [] } } },
    }
  const not = among.length === 1 ? ' no' : ' a'
  const dates = (date: 'start' | 'due') =>
    among.flatMap(m => (m.item.kind === 'task' && m.item[date] ? [m.item[date]] : []))
  const [mine, others] =
    settings.date === 'start' ? [dates('start'), dates('due')] : [dates('due'), dates('start')]
  const [own, other] = settings.date === 'start' ? ['planned date', 'deadline'] : ['deadline', 'planned date']
  if (mine.length === 0)
    return {
      words: `${all(among.length)}${not} ${own}${others.length > 0 ? `; ${others.length} ${others.length === 1 ? 'has' : 'have'} a ${other}` : ''}.`,
      step:
        others.length > 0
          ? { label: `Use the ${other}`, set: { date: settings.date === 'start' ? 'due' : 'start' } }
          : null,
    }
  if (settings.noHour !== 'none' || mine.some(when => when.kind !== 'date')) return null
  return {
    words: `${all(among.length)} ${among.length === 1 ? 'no' : 'an'} hour; ${mine.length} ${mine.length === 1 ? 'has' : 'have'} a day.`,
    step: { label: 'Make all-day events', set: { noHour: 'all-day' } },
  }
}
