<script setup lang="ts">
import { useQuery, useQueryCache } from '@pinia/colada'
import { Button } from 'ant-design-vue'
import { computed, onBeforeUnmount, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { answer, api } from '../../api/client.ts'
import { useAttempt } from '../../ui/attempt.ts'
import { say } from '../../stores/messages.ts'
import { useUnsaved } from '../../stores/unsaved.ts'
import { type IntakeForm, newForm, type Offered } from './intake-form.ts'
import NameAndDyes from './NameAndDyes.vue'
import type { Source } from './source.ts'
import WhatComesIn from './WhatComesIn.vue'
import WhatItMeans from './WhatItMeans.vue'
import WhoIsWho from './WhoIsWho.vue'

/** Every choice about a connection, changed later, with what that brings in and takes out. */
const route = useRoute()
const router = useRouter()
const cache = useQueryCache()
const id = computed(() => String(route.params.id))
const { busy, reason, attempt } = useAttempt()

const load = () => answer(() => api.connections[':id'].settings.$get({ param: { id: id.value } }))
const query = useQuery({ key: () => ['connections', 'settings', id.value], query: load })
type Loaded = Awaited<ReturnType<typeof load>>

const form = ref<IntakeForm | null>(null)
const kept = ref('')
const dirty = computed(() => form.value !== null && JSON.stringify(form.value) !== kept.value)

const offered = computed((): Offered[] =>
  (query.data.value?.collections ?? []).map(c => ({ ...c, count: null })),
)
function formOf(s: Loaded): IntakeForm {
  const fresh = newForm(
    s.name,
    s.collections.map(c => ({ ...c, count: null })),
    s.people,
    s.ownerId,
  )
  return {
    ...fresh,
    ownerId: s.ownerId,
    scope: s.scope,
    picks: s.picks,
    takesPart: s.collections.filter(c => c.takesPart).map(c => c.remoteId),
    meanings: {
      ...fresh.meanings,
      ...Object.fromEntries(s.collections.flatMap(c => (c.meaning ? [[c.remoteId, c.meaning]] : []))),
    },
    dyes: Object.fromEntries(s.collections.map(c => [c.remoteId, c.dye])),
  }
}
watch(
  () => query.data.value,
  loaded => {
    // Edits in progress are not overwritten by new data.
    if (!loaded || dirty.value) return
    form.value = formOf(loaded)
    kept.value = JSON.stringify(form.value)
  },
  { immediate: true },
)

const source = computed<Source>(() => ({
  count: asked =>
    answer(() => api.connections[':id'].settings.count.$post({ param: { id: id.value }, json: asked })),
  search: (takesPart, words) =>
    answer(() =>
      api.connections[':id'].settings.search.$post({ param: { id: id.value }, json: { takesPart, words } }),
    ),
}))

const askEffect = (json: IntakeForm) =>
  answer(() => api.connections[':id'].settings.effect.$post({ param: { id: id.value }, json }))
const effect = ref<Awaited<ReturnType<typeof askEffect>> | null>(null)
let asked = 0
let timer = 0
/** While the service is still being read, what would come in is asked again. */
async function askAgain(given: IntakeForm, mine: number): Promise<void> {
  await attempt(async () => {
    const found = await askEffect(given)
    if (mine !== asked) return
    effect.value = found
    if (found.reading) timer = window.setTimeout(() => void askAgain(given, mine), 600)
  })
}
watch(
  () => (dirty.value ? JSON.stringify(form.value) : ''),
  () => {
    clearTimeout(timer)
    effect.value = null
    const [given, mine] = [form.value, ++asked]
    if (dirty.value && given) timer = window.setTimeout(() => void askAgain(given, mine), 250)
  },
)

async function save(): Promise<void> {
  const json = form.value
  if (!json) return
  const done = await attempt(() =>
    answer(() => api.connections[':id'].settings.$put({ param: { id: id.value }, json })),
  )
  if (!done) return
  kept.value = JSON.stringify(json)
  await cache.invalidateQueries({ key: ['connections'] })
  say({ text: `${json.name}: changed. What is new comes in now.` })
  await router.push('/connections')
}

const button = computed(() => {
  const [out, coming] = [effect.value?.out ?? 0, effect.value?.coming ?? 0]
  const parts = [coming > 0 ? `bring in ${coming}` : '', out > 0 ? `take out ${out}` : ''].filter(Boolean)
  return parts.length > 0 ? `Save: ${parts.join(', ')}` : 'Save'
})
const some = (titles: string[], count: number): string =>
  titles.join(' · ') + (count > titles.length ? ' …' : '')

useUnsaved(() => dirty.value, 'What you changed about this connection would be lost.')
onBeforeUnmount(() => clearTimeout(timer))
</script>

<template>
  <main class="page">
    <div class="page-head">
      <h1>{{ query.data.value?.name ?? 'Connection' }}</h1>
      <span class="quiet">What comes in from it, and what its words mean.</span>
      <span class="spacer" />
      <Button @click="router.push('/connections')">Back</Button>
      <Button type="primary" :loading="busy" :disabled="!dirty || !form?.name.trim()" @click="save">{{
        button
      }}</Button>
    </div>
    <p v-if="query.error.value" role="alert" class="why">{{ query.error.value.message }}</p>
    <p v-if="reason" role="alert" class="why">{{ reason }}</p>
    <div v-if="effect" class="sheet effect" role="status">
      <p v-if="effect.out > 0">
        <b>{{ effect.out }} of {{ effect.out + effect.stays }} items here will no longer be shown:</b>
        {{ some(effect.outExamples, effect.out) }}.
        <template v-if="effect.tied > 0"
          >{{ effect.tied }} of them {{ effect.tied === 1 ? 'is' : 'are' }} tied by a rule; what
          {{ effect.tied === 1 ? 'it is' : 'they are' }} tied to stays and waits.</template
        >
        Nothing is deleted at the service.
      </p>
      <p v-if="effect.coming > 0">
        <b>{{ effect.coming }} more {{ effect.coming === 1 ? 'comes' : 'come' }} in:</b>
        {{ some(effect.comingExamples, effect.coming) }}.
      </p>
      <p v-if="effect.out + effect.coming === 0 && !effect.reading">No item comes in or goes out by this.</p>
      <p v-if="effect.reading" class="quiet">Still reading at the service.</p>
      <p v-if="effect.error" class="why">{{ effect.error }}</p>
    </div>
    <template v-if="form && query.data.value">
      <section class="sheet" aria-label="What comes in">
        <h2>What comes in</h2>
        <WhatComesIn v-model="form" :offered="offered" :people="query.data.value.people" :source="source" />
      </section>
      <section v-if="query.data.value.people.length > 0" class="sheet" aria-label="Who is who">
        <h2>Who is who</h2>
        <WhoIsWho v-model="form" :people="query.data.value.people" :members="query.data.value.members" />
      </section>
      <section
        v-if="offered.some(o => o.itemKind === 'task')"
        class="sheet"
        aria-label="Statuses and priorities"
      >
        <h2>Statuses and priorities</h2>
        <WhatItMeans v-model="form" :offered="offered" />
      </section>
      <section class="sheet" aria-label="Name and colours">
        <h2>Name and colours</h2>
        <NameAndDyes v-model="form" :offered="offered" :members="query.data.value.members" />
      </section>
    </template>
  </main>
</template>

<style scoped>
.page {
  max-width: 1040px;
}
.sheet {
  padding: 12px 14px;
  margin-bottom: 10px;
}
.sheet h2 {
  margin-bottom: 10px;
}
.effect {
  background: var(--amber-wash);
}
.effect p {
  margin: 0;
}
.why {
  color: var(--clay);
}
</style>
