import { defaultSettings, type RuleSettings } from '@loom/core'
import { until, type World } from './world.ts'

/** Rules as somebody would make and try them, through the routes. */
export class RuleDesk {
  constructor(private readonly w: World) {}

  async collection(name: string): Promise<string> {
    const { connections } = (await this.w.client.call('GET', '/connections')).body
    const found = connections.flatMap((c: any) => c.collections).find((k: any) => k.name === name)
    if (!found) throw new Error(`no list or calendar ${name}`)
    return found.id
  }

  async ready(): Promise<void> {
    await until('everything was read', async () => {
      const { body } = await this.w.client.call('GET', '/connections')
      return body.connections.every((c: any) =>
        c.collections.every((k: any) => k.syncedAt !== null || !k.takesPart),
      )
    })
  }

  async save(
    a: string,
    b: string,
    settings: Partial<RuleSettings>,
    id: string | null = null,
  ): Promise<{ status: number; id: string; reason?: string }> {
    const draft = {
      id,
      a: await this.collection(a),
      b: await this.collection(b),
      settings: { ...defaultSettings, ...settings },
    }
    const { status, body } = await this.w.client.call('POST', '/rules', draft)
    return { status, id: body.id, reason: body.reason }
  }

  async preview(a: string, b: string, settings: Partial<RuleSettings>): Promise<any> {
    const sides = { a: await this.collection(a), b: await this.collection(b) }
    const draft = { id: null, ...sides, settings: { ...defaultSettings, ...settings } }
    return (await this.w.client.call('POST', '/rules/preview', draft)).body
  }

  rule = async (id: string): Promise<any> =>
    (await this.w.client.call('GET', '/rules')).body.rules.find((r: any) => r.id === id)

  /** Nothing is on its way any more, and the last pass has seen everything. */
  async settled(): Promise<void> {
    await until(
      'everything has settled',
      async () => {
        const [open] = await this.w.app.ctx.db.rows<{ n: number }>(
          `SELECT (SELECT COUNT(*) FROM intents WHERE state IN ('open', 'waiting'))
           + (SELECT COUNT(*) FROM rules r JOIN rule_progress p ON p.rule_id = r.id
                JOIN change_counters w ON w.workspace_id = r.workspace_id
              WHERE r.state = 'on' AND p.planned_seq < w.change_seq) AS n`,
        )
        return open?.n === 0
      },
      40_000,
    )
  }

  /** Edits of several services or lists that no look comes in between of. */
  async unseen(edits: () => Promise<void>): Promise<void> {
    await this.w.app.ctx.db.run('UPDATE connections SET paused = 1')
    // A look that had begun goes on to its end.
    await until('nothing is being read', async () => {
      const [row] = await this.w.app.ctx.db.rows<{ n: number }>(
        `SELECT COUNT(*) AS n FROM leases l JOIN connections c ON l.resource LIKE CONCAT('%', c.id, '%')
         WHERE l.expires_at > :now`,
        { now: Date.now() },
      )
      return row?.n === 0
    })
    await edits()
    await this.w.app.ctx.db.run(
      'UPDATE connections c JOIN look_times l ON l.connection_id = c.id SET c.paused = 0, l.next_look_at = 0',
    )
  }

  entries = async (query = ''): Promise<any[]> =>
    (await this.w.client.call('GET', `/journal${query}`)).body.lines
}
