import { useQuery } from '@pinia/colada'
import { computed } from 'vue'
import { useRouter } from 'vue-router'
import { answer, api, Refused } from '../../api/client.ts'
import { useSession } from '../../stores/session.ts'
import { hideToken, linkToken } from './link-token.ts'

/** What an address is for that somebody was given, and how they go on from it. */
export function useEntryLink() {
  const token = linkToken()
  const router = useRouter()
  const session = useSession()
  const query = useQuery({
    key: ['entry', 'link', token],
    query: () => answer(() => api.entry.look.$post({ json: { token } })),
    staleTime: Infinity,
  })
  const error = computed(() => {
    const { value } = query.error
    if (token.length === 0) return 'This address is not complete. Copy all of it from the mail.'
    return value instanceof Refused ? value.message : (value?.message ?? '')
  })
  /** Signed in by now. */
  async function enter(to: string): Promise<void> {
    hideToken()
    await session.restore()
    await router.replace(to)
  }
  return { token, link: computed(() => query.data.value), error, enter }
}
