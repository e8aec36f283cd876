import type { Role } from '@loom/core/view'
import { defineStore } from 'pinia'
import { computed, ref } from 'vue'
import { answer, api, Refused, whenSignedOut } from '../api/client.ts'

interface Person {
  name: string
  email: string
  zone: string
  role: Role
  workspaceId: string
  /** More than a password is still to be given in this session. */
  owes: 'proof' | 'setup' | null
}

export const useSession = defineStore('session', () => {
  const person = ref<Person | null>(null)
  /** The product's clock minus this machine's, ms. */
  const clockOffset = ref(0)
  /** The session expired while the page was in use. */
  const expired = ref(false)

  let signedInAgain: (() => void)[] = []

  whenSignedOut(why => {
    if (!person.value) return null
    expired.value = true
    if (why === 'owes') void restore()
    return new Promise(resolve => signedInAgain.push(resolve))
  })

  async function restore(): Promise<boolean> {
    try {
      const { now: there, ...found } = await answer(() => api.session.$get())
      person.value = found
      clockOffset.value = there - Date.now()
      return true
    } catch (error) {
      if (error instanceof Refused) return false
      throw error
    }
  }

  /** Throws Refused with the reason. */
  const signIn = (email: string, password: string): Promise<void> =>
    signInBy(() => answer(() => api.session.$post({ json: { email, password } })))

  /** `enter` gives the browser a session, by whatever way. */
  async function signInBy(enter: () => Promise<unknown>): Promise<void> {
    await enter()
    await restore()
    if (person.value?.owes) return
    goOn()
  }
  function goOn(): void {
    expired.value = false
    const waiting = signedInAgain
    signedInAgain = []
    for (const go of waiting) go()
  }

  async function signOut(): Promise<void> {
    await answer(() => api.session.$delete())
    person.value = null
    expired.value = false
    signedInAgain = []
    seesAs.value = null
  }

  /** The colleague as whom one looks at the Cloth. */
  const seesAs = ref<{ id: string; name: string } | null>(null)
  /** A reader, or as somebody else: everything is there to look at, and nothing to change. */
  const onlyLooks = computed(() => person.value?.role === 'reader' || seesAs.value !== null)
  /** What one may not do, somebody else can be asked for: not by guests, nor by readers. */
  const mayAsk = computed(() => person.value !== null && !onlyLooks.value)
  const now = (): number => Date.now() + clockOffset.value

  return { person, seesAs, onlyLooks, mayAsk, expired, now, restore, signIn, signInBy, signOut }
})
