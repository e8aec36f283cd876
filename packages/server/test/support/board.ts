import { createHash, randomBytes } from 'node:crypto'

/** The other side's work orders, spoken to in their own interface, with a consent of the test's own. */
export interface Order {
  number: string
  crew: string
  title: string
  text: string
  stage: string
  urgency: string
  deadline: string | null
  half_days: number | null
  for: number[]
}

export class BoardSide {
  private token: string | null = null
  constructor(
    private readonly base: string,
    private readonly account = 1012,
  ) {}

  private async signIn(): Promise<string> {
    const verifier = randomBytes(32).toString('base64url')
    const redirect = 'http://127.0.0.1/back'
    const code_challenge = createHash('sha256').update(verifier).digest('base64url')
    const form = { redirect_uri: redirect, state: 's', code_challenge, account: String(this.account) }
    const given = await fetch(`${this.base}/board/oauth/authorize`, {
      method: 'POST',
      body: new URLSearchParams({ ...form, answer: 'yes' }),
      redirect: 'manual',
    })
    const code = new URL(given.headers.get('location') ?? '').searchParams.get('code') ?? ''
    const answer = await fetch(`${this.base}/board/oauth/token`, {
      method: 'POST',
      body: new URLSearchParams({
        grant_type: 'authorization_code',
        code,
        code_verifier: verifier,
        redirect_uri: redirect,
      }),
    })
    return ((await answer.json()) as { access_token: string }).access_token
  }

  private async call<T>(method: string, path: string, body?: object): Promise<T | null> {
    for (;;) {
      this.token ??= await this.signIn()
      const answer = await fetch(`${this.base}/board/api${path}`, {
        method,
        headers: { Authorization: `Bearer ${this.token}` },
        ...(body ? { body: JSON.stringify(body) } : {}),
      })
      if (answer.status === 401) this.token = null
      else if (answer.status === 429) await new Promise(resolve => setTimeout(resolve, 300))
      else if (answer.status === 404 || answer.status === 204) return null
      else if (answer.ok) return (await answer.json()) as T
      else throw new Error(`${method} ${path}: ${answer.status} ${await answer.text()}`)
    }
  }

  async listed(crew: string): Promise<Order[]> {
    type Page = { orders: Order[]; pages: number }
    const first = await this.call<Page>('GET', `/crews/${crew}/orders`)
    return first?.orders ?? []
  }
  async titled(crew: string, title: string): Promise<Order | undefined> {
    return (await this.listed(crew)).find(o => o.title === title)
  }
  add = (crew: string, set: Partial<Order>) => this.call<Order>('POST', `/crews/${crew}/orders`, set)
  edit = (number: string, set: Partial<Order>) => this.call<Order>('PATCH', `/orders/${number}`, set)
  stage = (number: string, code: string) => this.call<Order>('POST', `/orders/${number}/stage`, { code })
  remove = (number: string) => this.call('DELETE', `/orders/${number}`)
  move = (number: string, crew: string) => this.call<Order>('POST', `/orders/${number}/move`, { crew })
}
