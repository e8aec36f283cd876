import { randomUUID } from 'node:crypto'
import { type Level, newEvent, zoned } from '@loom/core'
import { hashOf, newToken } from '../src/access/secrets.ts'
import type { Database } from '../src/data/database.ts'
import { json } from '../src/data/json.ts'
import { addMember } from '../src/data/repositories/members.ts'
import { putMirrors } from '../src/data/repositories/mirrors.ts'
import { addSession } from '../src/data/repositories/sessions.ts'
import { addUser } from '../src/data/repositories/users.ts'
import { WEEK } from './one-week.ts'

/** Colleagues who each own two calendars, share them at different levels, and live in three zones. */

const ZONES = ['Europe/Dublin', 'Asia/Kathmandu', 'America/New_York']
const SHARED: Level[] = ['busy', 'title', 'everything', 'nothing']
const EVENTS = 15

/** Returns a session's cookie for each. */
export async function addViewers(db: Database, count: number): Promise<string[]> {
  const workspace = await db.one<{ id: string }>('SELECT id FROM workspaces LIMIT 1')
  const workspaceId = workspace?.id ?? ''
  const cookies: string[] = []
  for (let n = 0; n < count; n++) {
    const [id, connection, token] = [randomUUID(), randomUUID(), newToken()]
    const email = `viewer${n}@quillmere.example`
    const zone = ZONES[n % ZONES.length] ?? 'UTC'
    await db.commit(async sql => {
      await addUser(sql, { id, email, passwordHash: '', now: 0 })
      await addMember(sql, {
        id,
        workspaceId,
        userId: id,
        role: 'member',
        name: `Viewer ${n}`,
        email,
        zone,
        now: Date.now(),
      })
      await sql.insert(
        `INSERT INTO connections (id, workspace_id, kind, name, address, credentials, account_name, scope, owner_id, paused)
         VALUES (:connection, :workspaceId, 'caldav', :email, 'https://nothing.invalid', '', '', '{}', :id, 1)`,
        { connection, workspaceId, email, id },
      )
      for (const list of [0, 1]) {
        const collection = randomUUID()
        await sql.insert(
          `INSERT INTO collections (id, workspace_id, connection_id, remote_id, name, dye, item_kind, writable, takes_part, terms)
           VALUES (:collection, :workspaceId, :connection, :remote, 'Calendar', '#44566C', 'event', 1, 1, :terms)`,
          {
            collection,
            workspaceId,
            connection,
            remote: String(list),
            terms: json({ statuses: [], priorities: [] }),
          },
        )
        await sql.insert(
          `INSERT INTO grants (collection_id, to_kind, to_id, workspace_id, level) VALUES (:collection, 'everybody', '', :workspaceId, :level)`,
          { collection, workspaceId, level: SHARED[(n + list) % SHARED.length] },
        )
        await putMirrors(
          sql,
          { workspaceId, connectionId: connection, zone },
          Array.from({ length: EVENTS }, (_, i) => {
            const date = new Date(Date.parse(WEEK) + (i % 7) * 86_400_000).toISOString().slice(0, 10)
            const hour = String(8 + ((i + n) % 10)).padStart(2, '0')
            const uid = `v${n}-${list}-${i}`
            const anchor = zoned(`${date}T${hour}:00:00`, zone)
            return {
              mirror: {
                id: randomUUID(),
                collectionId: collection,
                remoteId: uid,
                revision: '1',
                item: newEvent(uid, { anchor, minutes: 45 }, { summary: `Theirs ${uid}` }),
                seen: {},
                presence: 'present' as const,
                firstSeenAt: 0,
                arrivedAt: 0,
              },
              original: '',
            }
          }),
        )
      }
      const now = Date.now()
      await addSession(sql, {
        token_hash: hashOf(token),
        id: randomUUID(),
        user_id: id,
        workspace_id: workspaceId,
        member_id: id,
        device: '',
        made_at: now,
        used_at: now,
        proven: 0,
        expires_at: now + 86_400_000,
      })
      sql.tell(workspaceId, { topics: ['team', 'cloth', 'connections'] })
    })
    cookies.push(`loom_session=${token}`)
  }
  return cookies
}
