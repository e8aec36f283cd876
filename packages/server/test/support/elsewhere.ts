import { randomUUID } from 'node:crypto'
import { hashPassword } from '../../src/access/passwords.ts'
import { addMember } from '../../src/data/repositories/members.ts'
import { addUser } from '../../src/data/repositories/users.ts'
import { Client, type World } from './world.ts'

/** Somebody in another workspace of the same server, signed in. */
export async function elsewhere(w: World): Promise<Client> {
  const { db } = w.app.ctx
  const workspaceId = randomUUID()
  await db.insert(`INSERT INTO workspaces (id, name, zone) VALUES (:workspaceId, 'Elsewhere', 'UTC')`, {
    workspaceId,
  })
  const [id, email] = [randomUUID(), 'stranger@elsewhere.example']
  await addUser(db, { id, email, passwordHash: await hashPassword('elsewhere'), now: 0 })
  const role = 'coordinator'
  await addMember(db, { id, workspaceId, userId: id, role, name: 'Stranger', email, zone: 'UTC', now: 0 })
  const stranger = new Client(w.client.base)
  const status = await stranger.signIn('stranger@elsewhere.example', 'elsewhere')
  if (status !== 200) throw new Error(`not signed in: ${status}`)
  return stranger
}
