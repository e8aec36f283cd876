import { expect } from 'chai'
import { onlyOnce } from '../src/api/only-once.ts'

describe('requests that change something', () => {
  let at = 0
  let fails = false
  const keys: (string | null)[] = []
  const send = onlyOnce(
    async (_input, init) => {
      keys.push(new Headers(init?.headers).get('Idempotency-Key'))
      if (fails) throw new TypeError('the answer was lost')
      return new Response('{}')
    },
    () => at,
    () => `key-${keys.length}`,
  )
  const post = (body: string) => send('/api/cloth/make', { method: 'POST', body })

  it('carry one key for clicks in a hurry and for another try after a lost answer, else a new one', async () => {
    await Promise.all([post('a'), post('a'), post('b')])
    expect(keys[0]).to.equal(keys[1]).and.not.equal(keys[2])
    at = 1_000
    await post('a')
    expect(keys[3], 'a second later').to.equal(keys[0])
    at = 10_000
    await post('a')
    expect(keys[4], 'meant anew').to.not.equal(keys[0])
    at = 20_000
    fails = true
    await post('c').catch(() => undefined)
    fails = false
    at = 60_000
    await post('c')
    expect(keys[6]).to.equal(keys[5])
    await send('/api/cloth')
    expect(keys[7], 'what only asks has none').to.equal(null)
  })
})
