import { randomUUID } from 'node:crypto'
import { hashPassword } from '../../src/access/sessions.ts'
import { Client, type World } from './world.ts'

/** Somebody in another workspace of the same server, signed in. */
export async function elsewhere(w: World): Promise<Client> {
  const { db } = w.app.ctx
  const workspaceId = randomUUID()
  await db.insert(`INSERT INTO workspaces (id, name, zone) VALUES (:workspaceId, 'Elsewhere', 'UTC')`, {
    workspaceId,
  })
  await db.insert(
    `INSERT INTO members (id, workspace_id, name, email, password_hash, zone)
     VALUES (:id, :workspaceId, 'Stranger', 'stranger@elsewhere.example', :hash, 'UTC')`,
    { id: randomUUID(), workspaceId, hash: await hashPassword('elsewhere') },
  )
  const stranger = new Client(w.client.base)
  const status = await stranger.signIn('stranger@elsewhere.example', 'elsewhere')
  if (status !== 200) throw new Error(`not signed in: ${status}`)
  return stranger
}
