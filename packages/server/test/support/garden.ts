/** The other side's calendars, spoken to in their own protocol and not through the product. */
export interface GardenEvent {
  name: string
  etag: string
  text: string
}

export class GardenSide {
  private readonly headers: { Authorization: string }
  constructor(
    private readonly base: string,
    private readonly user = 'ines',
    password = 'moonflower',
  ) {
    this.headers = { Authorization: `Basic ${btoa(`${user}:${password}`)}` }
  }

  url(calendar: string, name = ''): string {
    return `${this.base}/garden/dav/calendars/${this.user}/${calendar}/${name}`
  }

  async events(calendar: string): Promise<GardenEvent[]> {
    return Promise.all((await this.names(calendar)).map(name => this.get(calendar, name)))
  }

  async names(calendar: string): Promise<string[]> {
    const answer = await fetch(this.url(calendar), {
      method: 'PROPFIND',
      headers: { ...this.headers, Depth: '1' },
    })
    const hrefs = [...(await answer.text()).matchAll(/<D:href>([^<]+\.ics)<\/D:href>/g)].map(m => m[1] ?? '')
    return hrefs.map(href => href.split('/').at(-1) ?? '')
  }

  async get(calendar: string, name: string): Promise<GardenEvent> {
    const answer = await fetch(this.url(calendar, name), { headers: this.headers })
    if (!answer.ok) throw new Error(`${name}: ${answer.status}`)
    return { name, etag: answer.headers.get('etag') ?? '', text: await answer.text() }
  }

  async titled(calendar: string, title: string): Promise<GardenEvent[]> {
    return (await this.events(calendar)).filter(
      e => property(e.text, 'SUMMARY')?.replace(/\\,/g, ',') === title,
    )
  }

  async put(calendar: string, name: string, text: string): Promise<number> {
    const answer = await fetch(this.url(calendar, name), { method: 'PUT', headers: this.headers, body: text })
    return answer.status
  }

  async edit(calendar: string, event: GardenEvent, change: (text: string) => string): Promise<void> {
    await this.put(calendar, event.name, change(event.text))
  }

  async remove(calendar: string, name: string): Promise<void> {
    await fetch(this.url(calendar, name), { method: 'DELETE', headers: this.headers })
  }
}

/** The first VEVENT's property, parameters left out. */
export function property(text: string, name: string): string | undefined {
  const body = /BEGIN:VEVENT[\s\S]*?END:VEVENT/.exec(text.replace(/\r\n[ \t]/g, ''))?.[0] ?? ''
  return new RegExp(`^${name}(?:;[^:\r\n]*)?:([^\r\n]*)`, 'm').exec(body)?.[1]
}

export function eventText(
  uid: string,
  summary: string,
  day: string,
  from: string,
  to: string,
  extra: string[] = [],
): string {
  const date = day.replace(/-/g, '')
  return [
    'BEGIN:VCALENDAR',
    'VERSION:2.0',
    'PRODID:-//test//EN',
    'BEGIN:VEVENT',
    `UID:${uid}`,
    'DTSTAMP:20260101T000000Z',
    `DTSTART;TZID=Europe/Dublin:${date}T${from.replace(':', '')}00`,
    `DTEND;TZID=Europe/Dublin:${date}T${to.replace(':', '')}00`,
    `SUMMARY:${summary}`,
    ...extra,
    'END:VEVENT',
    'END:VCALENDAR',
    '',
  ].join('\r\n')
}
