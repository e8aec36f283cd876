<script setup lang="ts">
import { PhCalendarBlank, PhListChecks, PhTrash } from '@phosphor-icons/vue'
import { useQuery, useQueryCache } from '@pinia/colada'
import { computed, ref } from 'vue'
import { answer, api, Refused } from '../../api/client.ts'
import { say } from '../../stores/messages.ts'
import BringDescription from './BringDescription.vue'

/** Which service: two standards, those that are described here, and those that a team describes itself. */
const load = () => answer(() => api.connecting.services.$get())
export type Service = Awaited<ReturnType<typeof load>>['services'][number]

const emit = defineEmits<{ chosen: [service: Service] }>()

const cache = useQueryCache()
const query = useQuery({ key: ['services'], query: load })
const bringing = ref(false)
const groups = computed(() => {
  const all = query.data.value?.services ?? []
  const isCalendar = (s: Service): boolean => s.id === 'caldav' || s.id === 'ics-feed'
  return [
    { name: 'Calendars', services: all.filter(isCalendar), icon: PhCalendarBlank },
    { name: 'Task managers', services: all.filter(s => !isCalendar(s)), icon: PhListChecks },
  ]
})

async function brought(id: string): Promise<void> {
  bringing.value = false
  await cache.invalidateQueries({ key: ['services'] })
  const service = query.data.value?.services.find(s => s.id === id)
  if (service) emit('chosen', service)
}
async function remove(service: Service): Promise<void> {
  try {
    await answer(() => api.connecting.services[':id'].$delete({ param: { id: service.id } }))
    await cache.invalidateQueries({ key: ['services'] })
    say({ text: `The description of ${service.name} is gone. Connections made with it go on.` })
  } catch (error) {
    if (!(error instanceof Refused)) throw error
    say({ text: error.message, tone: 'wrong' })
  }
}
</script>

<template>
  <div>
    <div class="groups">
      <div v-for="g in groups" :key="g.name">
        <h3>{{ g.name }}</h3>
        <ul>
          <li v-for="s in g.services" :key="s.id">
            <button type="button" class="plain service" @click="emit('chosen', s)">
              <component :is="g.icon" :size="20" aria-hidden="true" />
              <span>
                <b>{{ s.name }}</b>
                <span class="quiet">{{ s.about }}</span>
              </span>
            </button>
            <button
              v-if="s.own"
              type="button"
              class="plain remove"
              :aria-label="`Remove the description of ${s.name}`"
              @click="remove(s)"
            >
              <PhTrash :size="16" />
            </button>
          </li>
        </ul>
      </div>
    </div>
    <p class="other">
      Yours is not among them?
      <button type="button" class="plain link" :aria-expanded="bringing" @click="bringing = !bringing">
        Import a description of it
      </button>
    </p>
    <BringDescription v-if="bringing" @brought="brought" />
  </div>
</template>

<style scoped>
.groups {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(300px, 1fr));
  gap: 10px 20px;
}
h3 {
  margin-bottom: 6px;
  font-weight: 400;
  color: var(--husk);
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  gap: 6px;
}
li {
  display: flex;
  border: 1px solid var(--warp);
  border-radius: 3px;
}
li:hover {
  border-color: var(--amber);
  background: var(--amber-wash);
}
.service {
  flex: 1;
  display: flex;
  gap: 12px;
  padding: 9px 12px;
  text-align: left;
  align-items: flex-start;
}
.service span {
  display: grid;
}
.service svg {
  flex: none;
  margin-top: 2px;
  color: var(--amber);
}
.remove {
  padding: 0 12px;
  color: var(--husk);
}
.other {
  margin: 12px 0 0;
}
.link {
  color: var(--amber);
  text-decoration: underline;
}
@media (max-width: 480px) {
  .groups {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
