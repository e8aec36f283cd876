import { expect } from 'chai'
import fc from 'fast-check'
import { ServiceError } from '../src/connector.ts'
import { runOf } from '../src/http-json/listing-run.ts'
import { nextPage } from '../src/http-json/paging.ts'

const since = {
  kind: 'updated-since',
  param: 'since',
  field: '/at',
  overlapSeconds: 60,
  fullEveryMinutes: 10,
} as const

describe('what a listing ends with', () => {
  it('can always be read from next time, whatever the service says of when its items changed', () => {
    const when = fc.oneof(
      fc.string(),
      fc.constantFrom('9999', 'zzzz', ''),
      fc.date({ noInvalidDate: true }).map(d => d.toISOString()),
    )
    fc.assert(
      fc.property(fc.array(when), fc.array(when), (first, second) => {
        const start = { cursor: null, now: () => 1_800_000_000_000 }
        const whole = runOf(since, { ...start, token: null })
        for (const page of [first, second])
          whole.saw(
            {},
            page.map(at => ({ at })),
          )
        const next = runOf(since, { ...start, token: whole.token() })
        expect(whole.full).to.equal(true)
        // Two pages were read: the next time only what is recent is asked for.
        expect(next.full).to.equal(false)
        const newest = [...first, ...second]
          .filter(at => Date.parse(at) > 0)
          .sort()
          .at(-1)
        const back = newest ? new Date(Date.parse(newest) - 60_000).toISOString() : undefined
        expect(next.params).to.deep.equal({ since: back })
      }),
    )
  })

  it('does not take a list for whole whose next page has no address', () => {
    const page = (link: string) =>
      nextPage(
        { kind: 'link' },
        {
          answer: { status: 200, json: {}, header: () => link },
          at: null,
          count: 1,
          total: undefined,
          address: 'https://crews.example/api',
        },
      )
    expect(page('</crews?page=2>; rel="next"')).to.equal('https://crews.example/crews?page=2')
    expect(page('</crews?page=1>; rel="prev"')).to.equal(null)
    expect(() => page('<http://[>; rel="next"')).to.throw(ServiceError)
  })
})
