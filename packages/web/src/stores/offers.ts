import { offeredSpans, type Stretch } from '@loom/core/free-times'
import { useQuery } from '@pinia/colada'
import { computed } from 'vue'
import { answer, api } from '../api/client.ts'

/** Time that the person who is signed in offers to guests, and what they are asked to offer with others. */

/** Under that of the team: whoever books changes it. */
export const OFFERS_KEY = ['team', 'offers']

export function useOffers(isWanted: () => boolean) {
  const query = useQuery({ key: OFFERS_KEY, query: () => answer(() => api.offers.$get()), enabled: isWanted })
  return {
    offers: computed(() => query.data.value?.offers ?? []),
    canMail: computed(() => query.data.value?.canMail ?? true),
    trouble: computed(() => query.error.value?.message ?? ''),
    isThere: computed(() => query.data.value !== undefined),
    refetch: () => query.refetch(),
  }
}
export type GivenOffer = ReturnType<typeof useOffers>['offers']['value'][number]

/** What of somebody's time stands on offer, by offer; notice counts for guests alone. */
export const standingSpans = (
  offers: readonly GivenOffer[],
  of: string,
  now: number,
): { offer: GivenOffer; spans: Stretch[] }[] =>
  offers.flatMap(offer =>
    offer.isOver || !offer.hosts.some(h => h.id === of && h.agreed)
      ? []
      : [{ offer, spans: offeredSpans({ ...offer.terms, noticeHours: 0 }, now) }],
  )
