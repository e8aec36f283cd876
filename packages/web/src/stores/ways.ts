import { withWays } from '@loom/core/view'
import type { ClothItem } from '@loom/core/view'
import { useQuery } from '@pinia/colada'
import { answer, api } from '../api/client.ts'
import { useSession } from './session.ts'

/**
 * The ways of colleagues on some days, as far as they show them. Under the Cloth's key: a way is asked for again when an
 * appointment moves.
 * @param enabled asked for only then
 */
export function useOthersWays(
  range: () => { from: string; days: number },
  enabled: () => boolean = () => true,
): (items: readonly ClothItem[]) => ClothItem[] {
  const session = useSession()
  const query = useQuery({
    key: () => ['cloth', range().from, range().days, 'ways'],
    query: () => {
      const { from, days } = range()
      return answer(() => api.planning.ways.$get({ query: { from, days: String(days) } }))
    },
    // What another sees of them is not to be told from what one sees oneself.
    enabled: () => session.seesAs === null && enabled(),
    placeholderData: (previous: { ways: Parameters<typeof withWays>[1] } | undefined) => previous,
  })
  return items => withWays(items, session.seesAs === null ? (query.data.value?.ways ?? []) : [])
}
