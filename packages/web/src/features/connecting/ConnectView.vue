<script setup lang="ts">
import { filterWords } from '@loom/core/view'
import { useQueryCache } from '@pinia/colada'
import { Button } from 'ant-design-vue'
import { computed, onMounted, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { answer, api, Refused } from '../../api/client.ts'
import { useAttempt } from '../../ui/attempt.ts'
import { useImports } from '../../stores/imports.ts'
import { say } from '../../stores/messages.ts'
import ChooseService, { type Service } from './ChooseService.vue'
import ConnectStation from './ConnectStation.vue'
import { type IntakeForm, newForm, type Offered } from './intake-form.ts'
import { LEVEL_CHOICES } from '../../ui/level-choices.ts'
import SentenceChoice from '../../ui/SentenceChoice.vue'
import NameAndDyes from './NameAndDyes.vue'
import { useOtherServer } from '../../stores/other-server.ts'
import SignInService, { type Given } from './SignInService.vue'
import type { Source } from './source.ts'
import WhatComesIn from './WhatComesIn.vue'
import WhatItMeans from './WhatItMeans.vue'
import WhoIsWho from './WhoIsWho.vue'

/** From choosing a service to its first items, on one page: what was decided stays in sight above. */
const route = useRoute()
const router = useRouter()
const cache = useQueryCache()
const { busy, reason, attempt } = useAttempt()

const loadDraft = (id: string) => answer(() => api.connecting.drafts[':id'].$get({ param: { id } }))
type Draft = Awaited<ReturnType<typeof loadDraft>>

const service = ref<Service | null>(null)
const draft = ref<Draft | null>(null)
const form = ref<IntakeForm | null>(null)
const STATIONS = ['service', 'sign-in', 'comes-in', 'people', 'means', 'name'] as const
type Station = (typeof STATIONS)[number]
const at = ref<Station>('service')
/** The farthest one has come; one can go back and forth up to there. */
const reached = ref<Station>('service')

const account = computed(() => draft.value?.account ?? null)
const offered = computed((): Offered[] =>
  (account.value?.collections ?? []).map(c => ({ ...c, unknown: [] })),
)
const hasTasks = computed(() =>
  offered.value.some(o => o.itemKind === 'task' && form.value?.takesPart.includes(o.remoteId)),
)
const wanted = computed(() =>
  STATIONS.filter(
    s =>
      !account.value ||
      ((s !== 'people' || account.value.people.length > 0) && (s !== 'means' || hasTasks.value)),
  ),
)
const number = (s: Station): number => wanted.value.indexOf(s) + 1
const stateOf = (s: Station): 'ahead' | 'open' | 'behind' =>
  s === at.value
    ? 'open'
    : STATIONS.indexOf(s) < STATIONS.indexOf(reached.value) || s === reached.value
      ? 'behind'
      : 'ahead'
function go(s: Station): void {
  at.value = s
  if (STATIONS.indexOf(s) > STATIONS.indexOf(reached.value)) reached.value = s
}
const next = (): void => {
  const following = wanted.value[wanted.value.indexOf(at.value) + 1]
  if (following) go(following)
}

function choose(chosen: Service): void {
  service.value = chosen
  reason.value = ''
  if (draft.value && draft.value.service !== chosen.id) {
    draft.value = null
    form.value = null
    reached.value = 'service'
    void router.replace({ query: {} })
  }
  go('sign-in')
}

const { otherServer, agreed, agree, asking } = useOtherServer()
async function allowAndSignIn(given: Given): Promise<void> {
  agree()
  await signIn(given)
}

async function signIn(given: Given): Promise<void> {
  const chosen = service.value
  if (!chosen) return
  await attempt(async () => {
    const alsoAt = agreed.value
    const begun = await asking(() =>
      answer(() => api.connecting.drafts.$post({ json: { service: chosen.id, ...given, alsoAt } })),
    )
    if (begun.consent) {
      window.location.assign(begun.consent)
      return
    }
    await open(begun.draft)
  })
}

const keyOf = (id: string): string => `loom-draft-${id}`

async function open(id: string): Promise<void> {
  const loaded = await loadDraft(id)
  const again = /^again:(.+)$/.exec(loaded.service)?.[1]
  if (again) return back(again, id)
  draft.value = loaded
  service.value ??= {
    id: loaded.service,
    name: loaded.serviceName,
    about: '',
    signIn: 'consent',
    keyLabel: '',
    address: loaded.host,
    own: false,
  }
  if (!loaded.account) return go('sign-in')
  const kept = sessionStorage.getItem(keyOf(id))
  const { collections, people } = loaded.account
  form.value = kept
    ? (JSON.parse(kept) as IntakeForm)
    : newForm(
        service.value.name === 'Calendar feed (iCalendar)' ? loaded.account.name : nameFor(loaded),
        collections.map(c => ({ ...c, unknown: [] })),
        people,
        loaded.me,
      )
  if (route.query.draft !== id) await router.replace({ query: { draft: id } })
  go('comes-in')
}
const nameFor = (d: Draft): string =>
  d.service === 'caldav' ? `Calendars of ${d.account?.name || d.host}` : d.serviceName

/** The return from signing in again to an existing connection. */
async function back(connection: string, id: string): Promise<void> {
  await answer(() =>
    api.connections[':id'].consented[':draft'].$post({ param: { id: connection, draft: id } }),
  )
  say({ text: 'Signed in again. Nothing was lost.' })
  await router.replace('/connections')
}

onMounted(async () => {
  if (typeof route.query.reason === 'string') reason.value = route.query.reason
  if (route.query.lost) reason.value = 'The way back from the consent page did not lead to a connection.'
  const { draft: id } = route.query
  if (typeof id !== 'string') return
  const told = reason.value
  await attempt(() => open(id))
  if (told) reason.value = told
})
watch(
  form,
  kept => {
    if (draft.value && kept) sessionStorage.setItem(keyOf(draft.value.id), JSON.stringify(kept))
  },
  { deep: true },
)

const colleagues = computed({
  get: () => form.value?.colleagues ?? (form.value?.ownerId === null ? 'change' : 'busy'),
  set: level => form.value && (form.value = { ...form.value, colleagues: level }),
})

const source = computed<Source>(() => {
  const id = draft.value?.id ?? ''
  return {
    count: asked => answer(() => api.connecting.drafts[':id'].count.$post({ param: { id }, json: asked })),
    search: (takesPart, words) =>
      answer(() => api.connecting.drafts[':id'].search.$post({ param: { id }, json: { takesPart, words } })),
  }
})

async function keep(): Promise<void> {
  const [id, kept] = [draft.value?.id, form.value]
  if (!id || !kept) return
  const done = await attempt(async () => {
    const made = await answer(() => api.connecting.drafts[':id'].keep.$post({ param: { id }, json: kept }))
    useImports().expect(made.id)
  })
  if (!done) return
  sessionStorage.removeItem(keyOf(id))
  say({ text: `${kept.name} is connected. Its items come in page by page; you can go on meanwhile.` })
  await cache.invalidateQueries({ key: ['connections'] })
  await router.push('/connections')
}
async function drop(): Promise<void> {
  const id = draft.value?.id
  try {
    if (id) await answer(() => api.connecting.drafts[':id'].$delete({ param: { id } }))
  } catch (error) {
    // It would have gone by itself tomorrow.
    if (!(error instanceof Refused)) throw error
  }
  await router.push('/connections')
}

const said = computed(() => {
  const f = form.value
  const matched = Object.values(f?.people ?? {}).filter(Boolean).length
  const names = new Map(account.value?.people.map(p => [p.id, p.name]))
  return {
    signIn: account.value ? `${account.value.name || 'signed in'} · ${draft.value?.host ?? ''}` : '',
    comesIn:
      f?.scope.by === 'picked'
        ? `nothing by itself; ${f.picks.length} picked`
        : f
          ? `${f.takesPart.length} ${f.takesPart.length === 1 ? 'list or calendar' : 'lists and calendars'}, ${filterWords(f.scope.filter, id => names.get(id) ?? id)}`
          : '',
    people: `${matched} of ${account.value?.people.length ?? 0} are members here`,
  }
})
</script>

<template>
  <main class="page">
    <div class="page-head">
      <h1>Connect a service</h1>
      <span class="quiet">Nothing comes in before you say what.</span>
      <span class="spacer" />
      <Button @click="drop">Cancel</Button>
    </div>
    <p v-if="reason && at !== 'sign-in'" class="why" role="alert">{{ reason }}</p>

    <ConnectStation
      :number="1"
      title="What do you connect?"
      :state="stateOf('service')"
      :said="service?.name ?? ''"
      @open="go('service')"
    >
      <ChooseService @chosen="choose" />
    </ConnectStation>
    <ConnectStation
      :number="2"
      title="Sign in"
      :state="stateOf('sign-in')"
      :said="said.signIn"
      @open="go('sign-in')"
    >
      <SignInService
        v-if="service"
        :key="service.id"
        :service="service"
        :busy="busy"
        :reason="reason"
        :other-server="otherServer"
        @go="signIn"
        @allow="allowAndSignIn"
      />
    </ConnectStation>
    <ConnectStation
      :number="3"
      title="What comes in"
      :state="stateOf('comes-in')"
      :said="said.comesIn"
      @open="go('comes-in')"
    >
      <template v-if="form && account">
        <p v-if="draft?.already" class="why" role="alert">
          This account is connected already, as {{ draft.already }}. What comes in by both is drawn once.
          <RouterLink to="/connections">Go to {{ draft.already }}</RouterLink>
        </p>
        <WhatComesIn v-model="form" :offered="offered" :people="account.people" :source="source" />
        <div class="foot"><Button type="primary" @click="next">Continue</Button></div>
      </template>
    </ConnectStation>
    <ConnectStation
      v-if="wanted.includes('people')"
      :number="number('people')"
      title="Who is who"
      :state="stateOf('people')"
      :said="said.people"
      @open="go('people')"
    >
      <template v-if="form && account">
        <WhoIsWho v-model="form" :people="account.people" :members="draft?.members ?? []" />
        <div class="foot"><Button type="primary" @click="next">Continue</Button></div>
      </template>
    </ConnectStation>
    <ConnectStation
      v-if="wanted.includes('means')"
      :number="number('means')"
      title="Statuses and priorities"
      :state="stateOf('means')"
      @open="go('means')"
    >
      <template v-if="form">
        <WhatItMeans v-model="form" :offered="offered" />
        <div class="foot"><Button type="primary" @click="next">Continue</Button></div>
      </template>
    </ConnectStation>
    <ConnectStation
      :number="number('name')"
      title="Name and colours"
      :state="stateOf('name')"
      @open="go('name')"
    >
      <template v-if="form">
        <NameAndDyes v-model="form" :offered="offered" :members="draft?.members ?? []" />
        <p class="colleagues">
          Colleagues see
          <SentenceChoice v-model="colleagues" name="What colleagues see of it" :options="LEVEL_CHOICES" />
          of it{{ form.ownerId === null ? '; it is the team’s, and coordinators look after it' : '' }}. You
          can say otherwise of each list, for each person, under Team.
        </p>
        <div class="foot">
          <Button type="primary" :loading="busy" :disabled="!form.name.trim()" @click="keep">
            {{
              form.scope.by === 'picked'
                ? `Connect with ${form.picks.length} picked`
                : 'Connect and bring it in'
            }}
          </Button>
        </div>
      </template>
    </ConnectStation>
  </main>
</template>

<style scoped>
.page {
  max-width: 1040px;
}
.foot {
  margin-top: 14px;
}
.why {
  color: var(--clay);
}
.colleagues {
  margin: 14px 0 0;
}
</style>
