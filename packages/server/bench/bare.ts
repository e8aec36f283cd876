/** What it takes to fetch, and no more: the floor of other figures. */

/** The same data over the same protocols, and nothing done with it. */
export async function bare(garden: string, large: string): Promise<{ calendar: number; tasks: number }> {
  const headers = { Authorization: `Basic ${btoa('tobias:glasshouse')}`, 'Content-Type': 'application/xml' }
  const url = `${garden}/garden/dav/calendars/tobias/large/`
  let from = performance.now()
  const listing = await fetch(url, {
    method: 'REPORT',
    headers,
    body: '<D:sync-collection xmlns:D="DAV:"><D:sync-token/><D:sync-level>1</D:sync-level><D:prop><D:getetag/></D:prop></D:sync-collection>',
  })
  const hrefs = [...(await listing.text()).matchAll(/<D:href>([^<]+)<\/D:href>/g)].map(m => m[1] ?? '')
  for (let i = 0; i < hrefs.length; i += 50) {
    const answer = await fetch(url, {
      method: 'REPORT',
      headers,
      body: `<C:calendar-multiget xmlns:D="DAV:" xmlns:C="urn:ietf:params:xml:ns:caldav"><D:prop><D:getetag/><C:calendar-data/></D:prop>${hrefs
        .slice(i, i + 50)
        .map(h => `<D:href>${h}</D:href>`)
        .join('')}</C:calendar-multiget>`,
    })
    await answer.text()
  }
  const calendar = performance.now() - from
  from = performance.now()
  for (let at: string | null = '0'; at !== null;) {
    const answer: { next: string | null } = (await (await fetch(`${large}/rows?list=l&at=${at}`)).json()) as {
      next: string | null
    }
    at = answer.next
  }
  return { calendar, tasks: performance.now() - from }
}
