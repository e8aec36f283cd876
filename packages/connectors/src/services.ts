import { readFileSync } from 'node:fs'
import { readDescription, type ServiceDescription } from './http-json/description.ts'

/** The service descriptions that ship with the product, as anybody could have written them. */
const SHIPPED = ['bench-list', 'repairs-board', 'plant-register', 'gatehouse-mail', 'gate-chat']

export function shippedServices(): { id: string; description: ServiceDescription }[] {
  return SHIPPED.map(id => {
    const read = readDescription(readFileSync(new URL(`../services/${id}.json`, import.meta.url), 'utf8'))
    if (!read.ok) throw new Error(`${id}: ${read.errors.join(' ')}`)
    return { id, description: read.description }
  })
}
