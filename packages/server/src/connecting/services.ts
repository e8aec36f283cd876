import { randomUUID } from 'node:crypto'
import { readDescription, type ServiceDescription, shippedServices } from '@loom/connectors'
import type { Sql } from '../data/database.ts'
import { json } from '../data/json.ts'
import { servicesOf, serviceById, addService } from '../data/repositories/services.ts'

/** Which services can be connected: two standards, the descriptions that ship, and those a team has brought. */
export interface ServiceChoice {
  id: string
  name: string
  about: string
  /** How one signs in. */
  signIn: 'password' | 'key' | 'consent' | 'none'
  keyLabel: string
  address: string
  /** Brought by the team, and so to be taken away again. */
  own: boolean
}

const STANDARDS: ServiceChoice[] = [
  {
    id: 'caldav',
    name: 'Calendars and tasks (CalDAV)',
    about: 'Any server that follows the standard. Its name, or your mail address there, is enough.',
    signIn: 'password',
    keyLabel: '',
    address: 'calendars.example.org',
    own: false,
  },
  {
    id: 'ics-feed',
    name: 'Calendar feed (iCalendar)',
    about: 'A calendar that somebody publishes at an address, to be read only.',
    signIn: 'none',
    keyLabel: '',
    address: 'webcal://school.example.org/visits.ics',
    own: false,
  },
]

function choiceOf(id: string, description: ServiceDescription, own: boolean): ServiceChoice {
  const { name, about, address, signIn } = description
  return {
    id,
    name,
    about,
    address,
    own,
    signIn: signIn.kind === 'basic' ? 'password' : signIn.kind === 'oauth2' ? 'consent' : 'key',
    keyLabel: 'label' in signIn ? signIn.label : '',
  }
}

const parse = (text: string): ServiceDescription | null => {
  const read = readDescription(text)
  return read.ok ? read.description : null
}

export async function serviceChoices(sql: Sql, workspaceId: string): Promise<ServiceChoice[]> {
  const rows = await servicesOf(sql, { workspaceId })
  const brought = rows.flatMap(r => {
    const description = parse(r.description)
    return description ? [choiceOf(r.id, description, true)] : []
  })
  return [...STANDARDS, ...shippedServices().map(s => choiceOf(s.id, s.description, false)), ...brought]
}

export async function descriptionFor(
  sql: Sql,
  workspaceId: string,
  id: string,
): Promise<ServiceDescription | null> {
  const shipped = shippedServices().find(s => s.id === id)
  if (shipped) return shipped.description
  const row = await serviceById(sql, { id, workspaceId })
  return row && parse(row.description)
}

export async function bringService(
  sql: Sql,
  workspaceId: string,
  text: string,
  now: number,
): Promise<{ ok: true; id: string } | { ok: false; errors: string[] }> {
  const read = readDescription(text)
  if (!read.ok) return read
  const id = randomUUID()
  await addService(sql, {
    id,
    workspaceId,
    name: read.description.name,
    text: json(read.description),
    now,
  })
  return { ok: true, id }
}
