import { ref, type Ref } from 'vue'
import { Refused } from '../api/client.ts'

const MOST = 5

/** Another server that a service sends on to: it is shown nothing before somebody agrees to it by name. */
export function useOtherServer(): {
  /** Which one is asked about. */
  otherServer: Ref<string | null>
  agreed: Ref<string[]>
  agree: () => void
  /** Signing in, which may be refused because of one. */
  asking: <T>(signIn: () => Promise<T>) => Promise<T>
} {
  const otherServer = ref<string | null>(null)
  const agreed = ref<string[]>([])
  return {
    otherServer,
    agreed,
    agree() {
      if (otherServer.value) agreed.value = [...agreed.value, otherServer.value].slice(-MOST)
    },
    async asking(signIn) {
      try {
        const done = await signIn()
        otherServer.value = null
        return done
      } catch (error) {
        const other = error instanceof Refused ? error.said.alsoAt : null
        otherServer.value = typeof other === 'string' ? other : null
        throw error
      }
    },
  }
}
