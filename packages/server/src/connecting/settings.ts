import { placeOf, connectorOf, type Context, inputOf } from '../context/context.ts'
import { type Connector, connect, type Meanings } from '@loom/connectors'
import { entry, type FilterTerms, type Item, type Meaning, type Scope, trimmed } from '@loom/core'
import { putMirrors, remoteItemOf, type MirrorRow, mirrorOf } from '../data/repositories/mirrors.ts'
import { withoutParts } from './connect-service.ts'
import { comingIn, type Coming } from './listings.ts'
import { meAtService, setMemberOfPerson, dropPicks, addPick } from '../data/repositories/people.ts'
import { itemsToJudge } from '../data/repositories/originals.ts'
import { countTiesOf } from '../data/repositories/ties.ts'
import { putConnectionSettings, type ConnectionRow, OWN } from '../data/repositories/connections.ts'
import { setDye, chooseAnew, setMeaning } from '../data/repositories/collections.ts'
import { json } from '../data/json.ts'

/** Changing later what comes in from a connection and what its words mean. */
export interface Settings {
  scope: Scope
  takesPart: string[]
  meanings: Record<string, Meaning>
  people: Record<string, string | null>
  picks: string[]
  name: string
  ownerId: string | null
  dyes: Record<string, string>
}

/** The connection's connector as it would be with other meanings. */
export async function connectorWith(
  ctx: Context,
  row: ConnectionRow,
  meanings: Meanings,
): Promise<Connector> {
  if (row.kind === OWN) return connectorOf(ctx, row)
  const kept = await connectorOf(ctx, row)
  if (Object.keys(meanings).length === 0) return kept
  return connect(inputOf(row, ctx.secret), { http: ctx.http, now: ctx.now, zone: row.zone, meanings })
}

async function filterTermsOf(ctx: Context, row: ConnectionRow): Promise<FilterTerms> {
  const me = await meAtService(ctx.db, { id: row.id })
  return { me: me?.remote_id ?? null, now: ctx.now(), zone: row.workspace_zone }
}

export interface Effect extends Coming {
  /** In now, and no longer with this. */
  out: number
  /** Of those, how many are tied by a rule: their counterparts stay and wait. */
  tied: number
  stays: number
  outExamples: string[]
}

interface Judged {
  row: MirrorRow
  collection: string
  original: string
  item: Item
  leaves: boolean
}

/** Everything that is in, as it reads and is judged with other settings. */
async function* judged(ctx: Context, row: ConnectionRow, settings: Settings): AsyncGenerator<Judged> {
  const connector = await connectorWith(ctx, row, settings.meanings)
  const chosen = new Set(withoutParts(settings.takesPart))
  const picks = new Set(settings.picks)
  const terms = await filterTermsOf(ctx, row)
  let after = ''
  for (;;) {
    const rows = await itemsToJudge(ctx.db, { id: row.id, after })
    for (const m of rows) {
      const held = remoteItemOf(m)
      const read = m.original ? connector.interpret(m.remote, m.original) : null
      const item = trimmed(settings.scope, read?.item ?? held)
      const status =
        read?.unknownStatus && item.kind === 'task' && held.kind === 'task' ? { status: held.status } : {}
      const now = { ...item, ...status } as Item
      const judgement = entry(settings.scope, now, {
        ...terms,
        picked: picks.has(m.remote_id),
        isIn: m.presence === 'present',
      })
      yield {
        row: m,
        collection: m.remote,
        original: m.original,
        item: now,
        leaves: judgement !== 'in' || !chosen.has(m.remote),
      }
    }
    const last = rows.at(-1)
    if (!last) return
    after = last.id
  }
}

export async function effectOf(ctx: Context, row: ConnectionRow, settings: Settings): Promise<Effect> {
  const effect = { out: 0, tied: 0, stays: 0, outExamples: [] as string[] }
  const out: string[] = []
  const isIn = new Set<string>()
  for await (const j of judged(ctx, row, settings)) {
    if (j.row.presence !== 'present') continue
    isIn.add(`${j.collection} ${j.row.remote_id}`)
    if (!j.leaves) effect.stays++
    else {
      effect.out++
      out.push(j.row.id)
      if (effect.outExamples.length < 5) effect.outExamples.push(j.item.summary)
    }
  }
  for (let i = 0; i < out.length; i += 1000) {
    const ties = await countTiesOf(ctx.db, { ids: out.slice(i, i + 1000) })
    effect.tied += ties?.n ?? 0
  }
  const connector = await connectorWith(ctx, row, settings.meanings)
  const coming = comingIn(
    { key: row.id, background: ctx.background },
    connector,
    withoutParts(settings.takesPart),
    settings.scope,
    {
      ...(await filterTermsOf(ctx, row)),
      picks: new Set(settings.picks),
      isIn: seen => isIn.has(`${seen.collectionId} ${seen.remoteId}`),
    },
  )
  return { ...effect, ...coming }
}

/**
 * Applies changed settings. Items that are in are read again from their kept originals, at once and without the
 * service; items that never came in arrive with the full listing that follows.
 */
export async function applySettings(ctx: Context, row: ConnectionRow, settings: Settings): Promise<void> {
  const changed: { mirror: ReturnType<typeof mirrorOf>; original: string }[] = []
  for await (const j of judged(ctx, row, settings)) {
    const presence = j.leaves ? ('outside' as const) : ('present' as const)
    const was = remoteItemOf(j.row)
    const same = presence === j.row.presence && json(was) === json(j.item)
    if (!same) changed.push({ mirror: { ...mirrorOf(j.row), item: j.item, presence }, original: j.original })
  }
  await ctx.db.commit(async sql => {
    await putConnectionSettings(sql, {
      id: row.id,
      scope: json(settings.scope),
      name: settings.name,
      ownerId: settings.ownerId,
    })
    for (const [remoteId, dye] of Object.entries(settings.dyes))
      await setDye(sql, {
        id: row.id,
        remoteId,
        dye,
      })
    const chosen = withoutParts(settings.takesPart)
    await chooseAnew(sql, { id: row.id, chosen: chosen.length > 0 ? chosen : [''] })
    for (const [remoteId, meaning] of Object.entries(settings.meanings))
      await setMeaning(sql, { id: row.id, remoteId, meaning: json(meaning) })
    for (const [remoteId, memberId] of Object.entries(settings.people))
      await setMemberOfPerson(sql, {
        id: row.id,
        remoteId,
        memberId,
      })
    await dropPicks(sql, { id: row.id })
    for (const remoteId of settings.picks)
      await addPick(sql, {
        id: row.id,
        remoteId,
        workspaceId: row.workspace_id,
      })
    await putMirrors(sql, placeOf(row), changed)
    const ids = changed.map(c => c.mirror.id)
    sql.tell(row.workspace_id, { topics: ['connections', 'cloth', 'rules'] }, ids)
  })
}
