import { expect } from 'chai'
import { accountSubject } from '../src/account-subject.ts'

describe('who an account is', () => {
  const SAME = [
    'http://127.0.0.1:5001/dav/principals/ines',
    'http://localhost:5001/dav/principals/ines/',
    'http://LOCALHOST.:5001/dav/principals/ines//',
    'http://[::1]:5001/dav/principals/ines?x=1#y',
    'http://ines@127.0.0.1:5001/dav/principals/ines',
  ]
  it('is the same however its address is spelt', () => {
    expect(new Set(SAME.map(at => accountSubject(at))).size).to.equal(1)
    expect(accountSubject('https://dav.example:443/')).to.equal(accountSubject('HTTPS://Dav.example.'))
  })

  it('is another at another place, another port, or with another id', () => {
    const others = [
      'https://127.0.0.1:5001/dav/principals/ines',
      'http://127.0.0.1:5002/dav/principals/ines',
      'http://127.0.0.1:5001/dav/principals/Ines',
      'http://127.0.0.2:5001/dav/principals/ines',
    ]
    expect(new Set([...SAME, ...others].map(at => accountSubject(at))).size).to.equal(1 + others.length)
    expect(accountSubject(SAME[0] ?? '', '1007')).to.not.equal(accountSubject(SAME[0] ?? '', '1012'))
  })
})
