import { expect } from 'chai'
import fc from 'fast-check'
import { Versions } from '../src/view/versions.ts'

/** Whoever applies what they are given holds what everybody else holds, whichever version they had. */
describe('versions of what is looked at', () => {
  type State = Record<string, number>
  const state = fc.dictionary(fc.constantFrom('a', 'b', 'c', 'd', 'e'), fc.nat(3))
  const linesOf = (s: State) => Object.entries(s).map(([k, v]) => [k, JSON.stringify([k, v])] as const)
  const since = (of: Versions, have?: string) => {
    const { lines, ...rest } = of.since(have)
    return { ...rest, lines: Buffer.from(lines).toString() }
  }
  function applied(before: State, { lines, gone }: ReturnType<typeof since>): State {
    const after = gone === null ? {} : { ...before }
    for (const key of gone ?? []) delete after[key]
    return { ...after, ...(Object.fromEntries(JSON.parse(lines)) as State) }
  }

  it('from any version to the newest, with no more than what is another', () => {
    fc.assert(
      fc.property(fc.array(state, { minLength: 1, maxLength: 8 }), states => {
        const versions = new Versions()
        const held: { state: State; version: string }[] = []
        for (const now of states) {
          versions.put(linesOf(now))
          const first = since(versions)
          expect(first.gone).to.equal(null)
          expect(applied({}, first)).to.deep.equal(now)
          for (const before of held) {
            const later = since(versions, before.version)
            expect(later.version).to.equal(first.version)
            expect(later.gone).to.be.an('array')
            expect(applied(before.state, later)).to.deep.equal(now)
          }
          const [same] = held.filter(h => h.version === first.version)
          if (same) expect(same.state, 'one version is one state').to.deep.equal(now)
          const last = held.at(-1)
          if (last && last.version !== first.version) {
            const { lines } = since(versions, last.version)
            const changed = Object.keys(now).filter(k => now[k] !== last.state[k])
            expect(Object.keys(applied({}, { version: '', lines, gone: null })).sort()).to.deep.equal(
              changed.sort(),
            )
          }
          held.push({ state: now, version: first.version })
        }
      }),
    )
  })

  it('all of it for versions of another process, of the future, or none at all', () => {
    const one = new Versions()
    const other = new Versions()
    for (const v of [one, other]) v.put(linesOf({ a: 1, b: 2 }))
    const { version } = since(one)
    for (const have of [since(other).version, version.replace(/\d+$/, '9'), 'nonsense', '', 'x.y.z'])
      expect(since(one, have).gone, have).to.equal(null)
    expect(since(one, version)).to.deep.equal({ version, lines: '[]', gone: [] })
  })

  it('forgets what left long ago, and gives all to whoever still holds it', () => {
    const versions = new Versions()
    versions.put(linesOf({ a: 1 }))
    const { version } = since(versions)
    versions.put(Array.from({ length: 6_000 }, (_, i) => [`k${i}`, `"${i}"`] as const))
    versions.put(linesOf({ b: 1 }))
    expect(since(versions, version)).to.deep.include({ lines: '[["b",1]]', gone: null })
  })
})
