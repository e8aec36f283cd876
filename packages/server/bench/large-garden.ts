import { mkdtempSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { Garden, type GardenState, ics, listen } from '@loom/standins'

/** A garden of `users`, each with as many calendars, in which nothing happens. */
export async function stillGarden(
  users: readonly string[],
  calendars: number,
): Promise<{ base: string; close: () => Promise<void> }> {
  const folder = mkdtempSync(join(tmpdir(), 'loom-bench-'))
  const garden = new Garden(join(folder, 'seed.json'))
  const state: GardenState = { ...garden.store.value, users: {}, calendars: [] }
  const [first] = garden.store.value.calendars
  if (!first) throw new Error('the seed has no calendar')
  for (const user of users) {
    state.users[user] = { password: 'still', name: user }
    for (let i = 0; i < calendars; i++)
      state.calendars.push({ ...first, user, slug: `${user}-${i}`, name: `Bed ${i}`, objects: {}, log: [] })
  }
  writeFileSync(join(folder, 'garden.json'), JSON.stringify(state))
  const running = await listen(folder, 0)
  return { base: `http://127.0.0.1:${running.port}`, close: running.close }
}

/** A garden with one calendar of `count` events. */
export async function largeGarden(count: number): Promise<{ base: string; close: () => Promise<void> }> {
  const folder = mkdtempSync(join(tmpdir(), 'loom-bench-'))
  const garden = new Garden(join(folder, 'seed.json'))
  const state: GardenState = { ...garden.store.value, seq: 0 }
  const log: GardenState['calendars'][number]['log'] = []
  const objects: GardenState['calendars'][number]['objects'] = {}
  for (let i = 0; i < count; i++) {
    const day = new Date(Date.UTC(2026, 0, 1 + (i % 365))).toISOString().slice(0, 10)
    const from = `${String(8 + (i % 10)).padStart(2, '0')}:00`
    const to = `${String(8 + (i % 10)).padStart(2, '0')}:45`
    const text = ics({ uid: `bench-${i}`, summary: `Walk-round ${i}`, day, from, to }, Date.UTC(2026, 0, 1))
    log.push({ seq: ++state.seq, name: `e${i}.ics` })
    objects[`e${i}.ics`] = { etag: `"${state.seq}-x"`, data: Buffer.from(text).toString('base64') }
  }
  const first = state.calendars.find(c => c.user === 'tobias')
  if (!first) throw new Error('the seed has no calendar of Tobias')
  state.calendars = [{ ...first, slug: 'large', name: 'Large', tasks: false, objects, log }]
  writeFileSync(join(folder, 'garden.json'), JSON.stringify(state))
  const running = await listen(folder, 0)
  return { base: `http://127.0.0.1:${running.port}`, close: running.close }
}
