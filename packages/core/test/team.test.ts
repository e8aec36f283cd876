import { expect } from 'chai'
import fc from 'fast-check'
import { type Membership, mayChangeTeam, Role, type TeamAct } from '../src/index.ts'

const ROLES = fc.constantFrom(...Role.options)
const team = fc
  .array(ROLES, { minLength: 0, maxLength: 6 })
  .map((others): Membership[] =>
    (['coordinator', ...others] as Role[]).map((role, n) => ({ id: `m${n}`, role })),
  )
const of = fc.nat({ max: 7 }).map(n => `m${n}`)
const act: fc.Arbitrary<TeamAct> = fc.oneof(
  fc.record({ do: fc.constant('role' as const), of, role: ROLES }),
  fc.record({ do: fc.constant('end' as const), of }),
)
const after = (before: readonly Membership[], a: TeamAct): Membership[] =>
  a.do === 'end'
    ? before.filter(m => m.id !== a.of)
    : before.map(m => (m.id === a.of ? { ...m, role: a.role } : m))

describe('who is in a workspace', () => {
  it('keeps a coordinator, whoever does what, one after another', () => {
    fc.assert(
      fc.property(team, fc.array(fc.tuple(of, act), { maxLength: 30 }), (start, acts) => {
        let now = start
        for (const [by, a] of acts) {
          const verdict = mayChangeTeam(now, by, a)
          const actor = now.find(m => m.id === by)
          if (verdict.kind === 'may') {
            // Only coordinators act on others, and nobody who is not there acts or is acted on.
            expect(actor?.role === 'coordinator' || (a.do === 'end' && a.of === by)).to.equal(true)
            expect(now.some(m => m.id === a.of)).to.equal(true)
            now = after(now, a)
          }
          expect(now.some(m => m.role === 'coordinator')).to.equal(true)
        }
      }),
    )
  })

  it('lets everybody leave but the last coordinator, who is told why', () => {
    const two: Membership[] = [
      { id: 'ines', role: 'coordinator' },
      { id: 'tobias', role: 'reader' },
    ]
    expect(mayChangeTeam(two, 'tobias', { do: 'end', of: 'tobias' })).to.deep.equal({ kind: 'may' })
    const last = mayChangeTeam(two, 'ines', { do: 'end', of: 'ines' })
    expect(last.kind === 'may-not' && last.reason).to.match(/needs a coordinator/)
    expect(mayChangeTeam(two, 'ines', { do: 'role', of: 'ines', role: 'member' }).kind).to.equal('may-not')
    expect(mayChangeTeam(two, 'tobias', { do: 'end', of: 'ines' }).kind).to.equal('may-not')
    expect(mayChangeTeam(two, 'ines', { do: 'end', of: 'anouk' })).to.deep.equal({ kind: 'nobody' })
  })
})
