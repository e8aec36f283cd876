import { type Connector, type DeltaPage, type ServiceDescription, shippedServices } from '../../src/index.ts'

/** All pages of one listing, as one. */
export async function whole(
  connector: Connector,
  collection: string,
  token: string | null,
): Promise<DeltaPage> {
  let all: DeltaPage | null = null
  for await (const page of connector.delta(collection, token))
    all = all
      ? {
          ...page,
          items: [...all.items, ...page.items],
          problems: [...all.problems, ...page.problems],
          left: [...all.left, ...page.left],
        }
      : page
  if (!all) throw new Error('not a single page')
  return all
}

export function shipped(id: string): ServiceDescription {
  const found = shippedServices().find(s => s.id === id)
  if (!found) throw new Error(`no description ${id}`)
  return found.description
}
