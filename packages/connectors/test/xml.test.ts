import { expect } from 'chai'
import { childOf, hrefIn, listOf, parseXml, textIn } from '../src/caldav/xml.ts'

const refused = (text: string): Promise<string> =>
  parseXml(text).then(
    () => 'read',
    (e: unknown) => (e as Error).message,
  )

describe('XML of WebDAV answers', () => {
  it('is read without prefixes: text, attributes, lists, and what is empty', async () => {
    const root = childOf(
      await parseXml(
        `<?xml version="1.0"?><!-- <x> --><D:a xmlns:D="DAV:"><D:href>/one </D:href><D:comp D:name="VEVENT"/>
         <b>1 &lt; 2 &amp;#13; &#13;&#x41;</b><b><![CDATA[</b> & <i>]]></b><e/><__proto__>x</__proto__></D:a>`,
      ),
      'a',
    )
    expect(hrefIn(root)).to.equal('/one')
    expect(listOf(childOf(root, 'comp')).map(c => childOf(c, '@name'))).to.deep.equal(['VEVENT'])
    expect(listOf(childOf(root, 'b')).map(textIn)).to.deep.equal(['1 < 2 &#13; \rA', '</b> & <i>'])
    expect(childOf(root, 'e')).to.equal('')
    expect(childOf(root, 'missing')).to.equal(undefined)
    expect(Object.getPrototypeOf(root)).to.equal(null)
  })

  it('is the same wherever a long answer is cut for others to have their turn', async () => {
    // As long as it takes for the cut to fall at each place of an item.
    const one = '<r a="x &amp; y"><t>Zwölf &#x1F33F; &lt;</t><![CDATA[ ]] > ]]></r>'
    for (let shift = 0; shift < one.length; shift++) {
      const text = `<m>${' '.repeat(shift)}${one.repeat(1_200)}</m>`
      const all = listOf(childOf(childOf(await parseXml(text), 'm'), 'r'))
      expect(all).to.have.length(1_200)
      for (const r of all)
        expect([textIn(childOf(r, 't')), childOf(r, '@a'), textIn(r)], String(shift)).to.deep.equal([
          'Zwölf 🌿 <',
          'x & y',
          ' ]] > ',
        ])
    }
  }).timeout(60_000)

  it('is refused where it breaks off, brings definitions, or is nested without end', async () => {
    expect(await refused('<a><b>1</b>')).to.equal('it breaks off')
    expect(await refused('<a><b>1</b></a')).to.equal('it breaks off')
    expect(await refused('<!DOCTYPE a [<!ENTITY b "c">]><a>&b;</a>')).to.equal('it brings a document type')
    expect(await refused('<a>'.repeat(100_000))).to.equal('it is nested too deeply')
  })
})
