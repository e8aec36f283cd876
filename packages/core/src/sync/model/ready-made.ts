import { defaultSettings, type RuleSettings } from './settings.ts'

/** Kinds of rule to begin with; every word of them can be changed afterwards. */
export interface ReadyMade {
  id: string
  name: string
  says: string
  kinds: { a: 'task' | 'event'; b: 'task' | 'event' }
  settings: RuleSettings
}

const fieldsAll = (direction: 'both' | 'a-to-b'): RuleSettings['fields'] => ({
  ...defaultSettings.fields,
  title: direction,
  time: direction,
  completion: direction,
  notes: direction,
})

export const READY_MADE: readonly ReadyMade[] = [
  {
    id: 'time-for-tasks',
    name: 'Time for tasks',
    says: 'Every task with an hour has its event. What is done, moved or renamed on one side is so on the other.',
    kinds: { a: 'task', b: 'event' },
    settings: { ...defaultSettings, tellKind: true },
  },
  {
    id: 'deadlines-in-sight',
    name: 'Deadlines in sight',
    says: 'Each deadline stands in a calendar, shown free. The calendar only shows them: nothing comes back.',
    kinds: { a: 'task', b: 'event' },
    settings: {
      ...defaultSettings,
      fields: fieldsAll('a-to-b'),
      date: 'due',
      dueIs: 'end',
      noHour: 'all-day',
      title: 'Due: {title}',
      made: { a: 'all', b: 'nothing' },
      deleted: { a: 'deleted', b: 'again' },
      show: { as: 'free', class: 'public' },
    },
  },
  {
    id: 'tasks-out-of-events',
    name: 'Tasks out of events',
    says: 'An event whose title begins with a mark becomes a task. Other events stay just events.',
    kinds: { a: 'task', b: 'event' },
    settings: {
      ...defaultSettings,
      made: { a: 'nothing', b: 'marked' },
      deleted: { a: 'left', b: 'undated' },
    },
  },
  {
    id: 'two-lists-as-one',
    name: 'Two lists as one',
    says: 'Tasks of either list are in the other, with their dates, priorities and people.',
    kinds: { a: 'task', b: 'task' },
    settings: {
      ...defaultSettings,
      fields: { ...fieldsAll('both'), due: 'both', priority: 'both', people: 'both' },
      made: { a: 'all', b: 'all' },
      deleted: { a: 'deleted', b: 'deleted' },
      left: { a: 'release', b: 'release' },
    },
  },
  {
    id: 'work-handed-on',
    name: 'Work handed on',
    says: 'Tasks of one list are handed on to another. Being done comes back; the first list never loses anything.',
    kinds: { a: 'task', b: 'task' },
    settings: {
      ...defaultSettings,
      fields: { ...fieldsAll('a-to-b'), completion: 'both', due: 'a-to-b' },
      made: { a: 'all', b: 'nothing' },
      deleted: { a: 'cancelled', b: 'left' },
      neverLoses: { a: true, b: false },
      left: { a: 'mark', b: 'release' },
    },
  },
  {
    id: 'busy-elsewhere',
    name: 'Busy elsewhere',
    says: 'What stands in one calendar is shown as busy in another, without its title, notes or place.',
    kinds: { a: 'event', b: 'event' },
    settings: {
      ...defaultSettings,
      fields: { ...fieldsAll('a-to-b'), notes: 'off' },
      title: 'Busy',
      made: { a: 'all', b: 'nothing' },
      deleted: { a: 'deleted', b: 'again' },
      show: { as: 'busy', class: 'private' },
      series: 'dates',
    },
  },
]
