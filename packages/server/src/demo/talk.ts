import type { Context } from '../context/context.ts'
import { taskTitled } from '../data/repositories/demo.ts'
import { collectionNamed } from '../data/repositories/collections.ts'
import { teamOfWorkspace } from '../data/repositories/members.ts'
import { sayAbout } from '../team/comments.ts'
import { type Asking, makeRequest } from '../team/requests.ts'
import { soon } from './soon.ts'

/** What the demo's people say about a task, and ask of one another. */

const MINUTE = 60_000
const SAID = [
  ['Mei Okoro', 150, 'The printer wants it a day earlier, @Ines Varga. Can the school route go in as it is?'],
  ['Ines Varga', 95, 'Yes, it walked well on Saturday. Leave the pond side out, the path there is soft.'],
  ['Mei Okoro', 40, 'Then I will send it tomorrow at noon.'],
] as const

export async function talk(ctx: Context): Promise<void> {
  const proof = await soon(() => taskTitled(ctx.db, { title: 'Festival map proof' }))
  const vent = await soon(() => taskTitled(ctx.db, { title: 'Vent motor, House 3' }))
  if (!proof || !vent) return
  const workspaceId = proof.workspace
  const team = await teamOfWorkspace(ctx.db, { workspaceId })
  const person = (name: string) => team.find(m => m.name === name)
  const ago = (minutes: number): Context => ({ ...ctx, now: () => ctx.now() - minutes * MINUTE })
  for (const [name, minutes, text] of SAID) {
    const who = person(name)
    if (who) await sayAbout(ago(minutes), { ...who, workspaceId }, proof.id, text)
  }
  const ask = async (name: string, minutes: number, asking: Asking): Promise<void> => {
    const who = person(name)
    if (who) await makeRequest(ago(minutes), { ...who, workspaceId }, asking)
  }
  const ownerId = person('Ines Varga')?.id ?? ''
  const trustees = await collectionNamed(ctx.db, { workspaceId, name: 'Trustees', ownerId })
  if (trustees) await ask('Anouk Thapa', 200, { ask: 'see', list: trustees.id, level: 'title' })
  await ask('Mei Okoro', 25, { ask: 'give', key: vent.id, to: person('Tobias Lund')?.id ?? '' })
}
