import { expect } from 'chai'
import { onlyOnce } from '../src/api/only-once.ts'

describe('requests that change something', () => {
  let at = 0
  let fails = false
  let status = 200
  const keys: (string | null)[] = []
  const send = onlyOnce(
    async (_input, init) => {
      keys.push(new Headers(init?.headers).get('Idempotency-Key'))
      if (fails) throw new TypeError('the answer was lost')
      return new Response('{}', { status })
    },
    () => at,
    () => `key-${keys.length}`,
  )
  const post = (body: string, path = '/api/cloth/make') => send(path, { method: 'POST', body })

  it('carry one key for clicks in a hurry and for another try after a lost answer, else a new one', async () => {
    await Promise.all([post('a'), post('a')])
    at = 1_000
    await post('a')
    expect(new Set(keys.slice(0, 3)).size, 'a second later').to.equal(1)
    at = 10_000
    await post('a')
    expect(keys[3], 'meant anew').to.not.equal(keys[0])
    at = 20_000
    fails = true
    await post('c').catch(() => undefined)
    fails = false
    at = 60_000
    await post('c')
    expect(keys[5]).to.equal(keys[4])
    await send('/api/cloth')
    expect(keys[6], 'what only asks has none').to.equal(null)
  })

  it('are another once something else came between, and an edit is always one of its own', async () => {
    const from = keys.length
    await post('there')
    await post('back')
    await post('there')
    await post('same', '/api/cloth/x/edit')
    await post('same', '/api/cloth/x/edit')
    expect(new Set(keys.slice(from)).size).to.equal(5)
  })

  it('are another where the first was answered that it is not done yet', async () => {
    const from = keys.length
    status = 202
    await post('take back')
    await post('take back')
    status = 200
    await post('take back')
    expect(new Set(keys.slice(from)).size).to.equal(3)
  })
})
