import type { App } from './app.ts'

export type Service = 'garden' | 'visits' | 'bench' | 'board' | 'register' | 'mail'

/** What stands at the services, asked in their own protocols. */
export function otherSide(app: App) {
  const garden = `${app.standins}/garden/dav/calendars/ines`
  const basic = { Authorization: `Basic ${btoa('ines:moonflower')}` }
  const bearer = { Authorization: 'Bearer bench-key-ines' }

  async function events(
    calendar: string,
  ): Promise<{ url: string; text: string; summary: string; start: string; end: string }[]> {
    const listing = await fetch(`${garden}/${calendar}/`, {
      method: 'PROPFIND',
      headers: { ...basic, Depth: '1' },
    })
    const hrefs = [...(await listing.text()).matchAll(/<D:href>([^<]+\.ics)<\/D:href>/g)].map(m => m[1] ?? '')
    return Promise.all(
      hrefs.map(async href => {
        const url = `${app.standins}${href}`
        const text = await (await fetch(url, { headers: basic })).text()
        const body = /BEGIN:VEVENT[\s\S]*?END:VEVENT/.exec(text)?.[0] ?? ''
        const of = (name: string): string => new RegExp(`^${name}[^:]*:([^\r]*)`, 'm').exec(body)?.[1] ?? ''
        return { url, text, summary: of('SUMMARY'), start: of('DTSTART'), end: of('DTEND') }
      }),
    )
  }

  async function bench<T>(method: string, path: string, body?: object): Promise<T> {
    for (;;) {
      const answer = await fetch(`${app.standins}/bench/v1${path}`, {
        method,
        headers: bearer,
        ...(body ? { body: JSON.stringify(body) } : {}),
      })
      if (answer.status !== 429 && answer.status < 500) return (await answer.json()) as T
      await new Promise(done => setTimeout(done, 300))
    }
  }

  interface Task {
    details: string
    id: string
    text: string
    day: string | null
    hour: string | null
    finish_by: string | null
    marks: string[]
    ticked: boolean
  }
  return {
    events,
    event: async (calendar: string, summary: string) =>
      (await events(calendar)).find(e => e.summary === summary),
    put: (url: string, text: string) => fetch(url, { method: 'PUT', headers: basic, body: text }),
    task: async (list: string, text: string) =>
      (await bench<{ tasks: Task[] }>('GET', `/lists/${list}/tasks`)).tasks.find(t => t.text === text),
    taskById: (id: string) => bench<Task>('GET', `/tasks/${id}`),
    editTask: (id: string, set: object) => bench<Task>('PATCH', `/tasks/${id}`, set),
    addTask: (list: string, set: object) => bench<Task>('POST', `/lists/${list}/tasks`, set),
    removeTask: (id: string) =>
      fetch(`${app.standins}/bench/v1/tasks/${id}`, { method: 'DELETE', headers: bearer }),
    fault: (service: Service, faults: object) =>
      fetch(`${app.standins}/control/${service}/faults`, { method: 'PUT', body: JSON.stringify(faults) }),
  }
}
