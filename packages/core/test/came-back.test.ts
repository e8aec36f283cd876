import { expect } from 'chai'
import { awayFromHome, restoredAtOrigin, newEvent, newTask, type Task } from '../src/index.ts'

/** Moved to a place that keeps less, and back. */
describe('an item that moves back', () => {
  const before = newTask('home', {
    summary: 'Order 200 paper lanterns',
    description: 'White ones',
    start: { kind: 'date', date: '2026-11-26' },
    priority: 1,
    status: 'in-process',
    serviceStatus: 'Doing',
    assignees: ['ines'],
    parent: 'festival',
  })
  /** What a place took that trims titles, has no notes, and words of its own. */
  const arrived: Task = {
    ...awayFromHome(before),
    uid: 'away',
    summary: 'Order 200 paper',
    description: '',
    serviceStatus: 'Under way',
    assignees: ['account-7'],
    parent: 'other',
  }

  it('is as it was, where nothing was changed meanwhile', () => {
    expect(restoredAtOrigin(before, arrived, arrived)).to.deep.equal(before)
  })

  it('keeps what was changed meanwhile, and nothing that means something only there', () => {
    const now: Task = {
      ...arrived,
      summary: 'Order 300 paper',
      start: null,
      status: 'completed',
      serviceStatus: 'Finished',
      assignees: ['account-8'],
    }
    expect(restoredAtOrigin(before, arrived, now)).to.deep.equal({
      ...before,
      summary: 'Order 300 paper',
      start: null,
      status: 'completed',
    })
  })

  it('does the same for an event', () => {
    const event = newEvent('e', { anchor: { kind: 'date', date: '2026-11-26' }, minutes: 1440 })
    expect(
      restoredAtOrigin({ ...event, location: 'Hall' }, event, { ...event, location: 'Yard' }).location,
    ).to.equal('Yard')
    expect(awayFromHome(event)).to.equal(event)
  })
})
