import { setTimeout as wait } from 'node:timers/promises'
import { storeItems, WEEK } from './one-week.ts'
import { largeGarden } from './large-garden.ts'
import { LargeService } from './large-service.ts'
import { hostOf, Server } from './server-under-test.ts'
import { addViewers } from './viewers.ts'

/** Many edits on one workspace, with many pages open that each ask for what has changed, as the page asks. */

const SETTLE_MS = 30

/** One page: told of changes, it asks for what it does not have yet, one question at a time. */
class OpenPage {
  private readonly leave = new AbortController()
  private version = ''
  private due = false
  private asking = false
  /** The number of the last change that was told of before it last asked. */
  private told = 0
  shown = 0

  constructor(
    private readonly base: string,
    private readonly headers: { Cookie: string },
  ) {}

  async open(): Promise<void> {
    const answer = await fetch(`${this.base}/api/live`, { headers: this.headers, signal: this.leave.signal })
    this.listen(answer).catch(() => undefined)
    await this.ask()
  }

  private async listen(answer: Response): Promise<void> {
    const decoder = new TextDecoder()
    for await (const chunk of answer.body ?? []) {
      const text = decoder.decode(chunk as Uint8Array, { stream: true })
      for (const [, id] of text.matchAll(/^id: (\d+)$/gm)) this.told = Math.max(this.told, Number(id))
      if (text.includes('"cloth"')) {
        this.due = true
        this.askSoon().catch(() => undefined)
      }
    }
  }

  private async askSoon(): Promise<void> {
    if (this.asking) return
    this.asking = true
    try {
      while (this.due) {
        await wait(SETTLE_MS)
        this.due = false
        await this.ask()
      }
    } finally {
      this.asking = false
    }
  }

  private async ask(): Promise<void> {
    const upTo = this.told
    const have = this.version === '' ? '' : `&have=${this.version}`
    const answer = await fetch(`${this.base}/api/cloth?from=${WEEK}&days=7${have}`, { headers: this.headers })
    const text = await answer.text()
    this.version = /"version":"([^"]+)"/.exec(text)?.[1] ?? ''
    this.shown = Math.max(this.shown, upTo)
  }

  close(): void {
    this.leave.abort()
  }
}

/** @param viewers as many of the pages are of people who each see something else */
export async function manyPages(
  pages: number,
  editsASecond: number,
  seconds: number,
  viewers = 0,
): Promise<string[]> {
  const garden = await largeGarden(1)
  const large = await new LargeService(1).listen()
  const server = await Server.start([garden.base, large.base].map(hostOf))
  const [events, tasks] = await server.connectBoth(garden.base, large.base)
  await server.read([events, tasks])
  await server.db.run('UPDATE connections SET paused = 1')
  await storeItems(server.db, { events, tasks }, 1000)
  const headers = { Cookie: await server.client.session() }
  // A session has only so many streams; people have sessions of their own.
  const open = await Promise.all(
    Array.from({ length: pages }, async (_, i) => {
      const cookie = i % 10 === 0 ? await server.newSession() : null
      return cookie
    }),
  )
  const cookies = open.filter(c => c !== null)
  const theirs = await addViewers(server.db, viewers)
  const all = Array.from(
    { length: pages },
    (_, i) =>
      new OpenPage(server.client.base, {
        Cookie: theirs[i] ?? cookies[Math.floor(i / 10)] ?? headers.Cookie,
      }),
  )
  for (const page of all) await page.open()
  const keys = (
    await server.db.rows<{ id: string }>(
      `SELECT id FROM mirrors WHERE connection_id = :tasks AND presence = 'present' LIMIT 50`,
      { tasks },
    )
  ).map(r => r.id)
  const seqNow = async (): Promise<number> =>
    (await server.db.one<{ n: number }>('SELECT MAX(change_seq) AS n FROM change_counters'))?.n ?? 0
  let refused = 0
  const answers: number[] = []
  const lasts: number[] = []
  const edit = async (i: number): Promise<void> => {
    const from = performance.now()
    const answer = await fetch(`${server.client.base}/api/cloth/${keys[i % keys.length]}/edit`, {
      method: 'POST',
      headers: { ...headers, 'Content-Type': 'application/json', Origin: server.client.base },
      body: JSON.stringify({ do: 'estimate', minutes: 15 + (i % 90) }),
    })
    await answer.text()
    answers.push(performance.now() - from)
    if (answer.status !== 200) refused++
    if (pages === 0) return
    const seq = await seqNow()
    while (all.some(p => p.shown < seq)) {
      if (performance.now() - from > 10_000) break
      await wait(10)
    }
    lasts.push(performance.now() - from)
  }
  const running: Promise<void>[] = []
  const total = editsASecond * seconds
  const began = performance.now()
  for (let i = 0; i < total; i++) {
    await wait(Math.max(0, began + (i * 1000) / editsASecond - performance.now()))
    running.push(edit(i))
  }
  await Promise.all(running)
  for (const page of all) page.close()
  await server.stop()
  large.close()
  await garden.close()
  const at = (list: number[], share: number): string =>
    list.length === 0
      ? '–'
      : `${(list.toSorted((x, y) => x - y)[Math.floor(list.length * share)] ?? 0).toFixed(0)} ms`
  return [String(refused), at(answers, 0.5), at(answers, 0.95), at(lasts, 0.5), at(lasts, 0.95)]
}
