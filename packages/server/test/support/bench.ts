/** The other side's tasks, spoken to in their own interface and not through the product. */
export interface BenchTask {
  id: string
  list: string
  text: string
  details: string
  day: string | null
  hour: string | null
  finish_by: string | null
  ticked: boolean
  again: 'day' | 'week' | null
  times_done: number
  rev: string
}

export class BenchSide {
  constructor(private readonly base: string) {}

  private async call<T>(method: string, path: string, body?: unknown): Promise<T | null> {
    for (;;) {
      const answer = await fetch(`${this.base}/bench/v1${path}`, {
        method,
        headers: { Authorization: 'Bearer bench-key-ines' },
        ...(body === undefined ? {} : { body: JSON.stringify(body) }),
      })
      if (answer.status === 429) {
        await new Promise(resolve => setTimeout(resolve, 300))
        continue
      }
      if (answer.status === 404 || answer.status === 204) return null
      if (!answer.ok) throw new Error(`${method} ${path}: ${answer.status} ${await answer.text()}`)
      return (await answer.json()) as T
    }
  }

  async listed(list: string): Promise<BenchTask[]> {
    const all: BenchTask[] = []
    for (let after: string | null = ''; after !== null;) {
      type Page = { tasks: BenchTask[]; next: string | null }
      const page: Page | null = await this.call<Page>('GET', `/lists/${list}/tasks?after=${after}`)
      all.push(...(page?.tasks ?? []))
      after = page?.next ?? null
    }
    return all
  }

  async titled(list: string, text: string): Promise<BenchTask[]> {
    return (await this.listed(list)).filter(t => t.text === text)
  }

  get(id: string): Promise<BenchTask | null> {
    return this.call('GET', `/tasks/${id}`)
  }

  async add(list: string, set: Partial<BenchTask>): Promise<BenchTask> {
    const made = await this.call<BenchTask>('POST', `/lists/${list}/tasks`, set)
    if (!made) throw new Error('not made')
    return made
  }

  async edit(id: string, set: Partial<BenchTask>): Promise<void> {
    await this.call('PATCH', `/tasks/${id}`, set)
  }

  async remove(id: string): Promise<void> {
    await this.call('DELETE', `/tasks/${id}`)
  }
}
