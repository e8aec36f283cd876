import { now, weekDay } from '../clock.ts'
import { type Size, teachingPrep, volunteerJobs } from '../weeks.ts'
import type { BenchState, BenchTask } from './state.ts'

/** The first lists, told relative to this week (0 is Monday). */
export function benchSeed(size: Size): BenchState {
  const state: BenchState = {
    accounts: { 'bench-key-ines': { name: 'Ines Varga', zone: 'Europe/Dublin' } },
    lists: [
      { id: 'festival', account: 'bench-key-ines', name: 'Festival', colour: '#4E6B35', within: null },
      { id: 'repairs', account: 'bench-key-ines', name: 'Small repairs', colour: '#A43E2A', within: null },
      { id: 'someday', account: 'bench-key-ines', name: 'Ideas', colour: '#8C6A00', within: null },
      {
        id: 'print',
        account: 'bench-key-ines',
        name: 'Festival print',
        colour: '#44566C',
        within: 'festival',
      },
    ],
    tasks: {},
    hooks: [],
    log: [],
    seq: 0,
  }
  const touched = new Date(now() - 3 * 86_400_000).toISOString()
  const add = (list: string, text: string, rest: Partial<BenchTask> = {}): string => {
    const id = `t${(++state.seq).toString(36).padStart(5, '0')}`
    state.tasks[id] = {
      id,
      list,
      ref: null,
      text,
      details: '',
      day: null,
      hour: null,
      finish_by: null,
      weight: 3,
      marks: [],
      part_of: null,
      again: null,
      times_done: 0,
      ticked: false,
      ticked_at: null,
      rev: 1,
      touched,
      added: touched,
      ...rest,
    }
    state.log.push({ seq: state.seq, list, task: id })
    return id
  }
  const day = weekDay
  const done = { ticked: true, ticked_at: touched }
  add('festival', 'Festival map proof', { day: day(1), hour: '15:30', weight: 4, finish_by: day(3) })
  add('festival', 'Order moonflower plugs', { day: day(0), hour: '11:00', weight: 4 })
  add('festival', 'Label night beds', { day: day(0), hour: '15:30', weight: 2 })
  add('festival', 'Write lantern brief', {
    day: day(2),
    hour: '09:30',
    weight: 4,
    details: 'For the maker in Tarn Lane.',
  })
  add('festival', 'Call seed partners', { day: day(1), weight: 3 })
  add('festival', 'Send week note', { day: day(4), weight: 2 })
  add('festival', 'Water ledger', { day: day(0), ...done })
  add('festival', 'Thank lantern sponsors', { finish_by: day(-1), weight: 4 })
  add('festival', 'Print route cards', { finish_by: day(4), weight: 5 })
  add('festival', 'Type labels, bed 14', { finish_by: day(5), weight: 3 })
  add('festival', 'Photograph loans', { finish_by: day(12), weight: 2 })
  add('festival', 'Call bus company', { weight: 3 })
  add('festival', 'Plan moss talk', { day: day(150), hour: '10:00', weight: 1 })
  add('repairs', 'Repair vent motor, House 3', { day: day(1), hour: '09:00', weight: 5 })
  add('repairs', 'Boiler valve quote', { day: day(1), weight: 4 })
  add('repairs', 'Gutter survey, House 1', { finish_by: day(-2), weight: 5 })
  add('repairs', 'Fix tap by gate', { finish_by: day(5), weight: 3 })
  add('repairs', 'Repaint sign', { weight: 1 })
  add('repairs', 'Check frost alarms', { day: day(-3), again: 'week', weight: 3 })
  const posters = add('print', 'Posters', { finish_by: day(9), weight: 4 })
  add('print', 'Choose the paper', { part_of: posters, weight: 3 })
  add('print', 'Read the last proof', { part_of: posters, weight: 4 })
  add('someday', 'Merge duplicate taxa', { weight: 1 })
  add('someday', 'Moth trap evening', { finish_by: day(20), weight: 2 })
  if (size === 'small') return state
  state.accounts['bench-key-rafael'] = { name: 'Rafael Quint', zone: 'Europe/Dublin' }
  state.accounts['bench-key-mei'] = { name: 'Mei Okoro', zone: 'Europe/Dublin' }
  state.lists.push(
    {
      id: 'volunteers',
      account: 'bench-key-rafael',
      name: 'Volunteer jobs',
      colour: '#4E6B35',
      within: null,
    },
    { id: 'prep', account: 'bench-key-mei', name: 'Teaching prep', colour: '#75498A', within: null },
  )
  for (const { title, day, from, weight } of volunteerJobs())
    add('volunteers', title, { day, hour: from, weight })
  for (const { title, last, weight } of teachingPrep())
    add('prep', title, { finish_by: last, weight, marks: ['school work'] })
  return state
}
