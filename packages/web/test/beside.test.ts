import { expect } from 'chai'
import { beside } from '../src/ui/beside.ts'

describe('what floats beside something', () => {
  const wide = { innerWidth: 1280, innerHeight: 800 }
  const size = { width: 286, height: 400 }
  const at = (left: number, top: number) => ({ left, top, bottom: top + 40 })

  it('stands below it, and above it where that is where the room is', () => {
    expect(beside(at(200, 100), size, wide)).to.deep.equal({ left: '200px', top: '144px' })
    expect(beside(at(200, 700), size, wide)).to.deep.equal({ left: '200px', top: '296px' })
  })

  it('stays within the window where there is room on neither side', () => {
    expect(beside(at(1200, 350), size, wide)).to.deep.equal({ left: '986px', top: '392px' })
  })

  it('has its left and upper edges in sight though it is larger than the window', () => {
    const narrow = { innerWidth: 360, innerHeight: 300 }
    expect(beside(at(-30, 20), { width: 420, height: 430 }, narrow)).to.deep.equal({
      left: '8px',
      top: '8px',
    })
  })
})
