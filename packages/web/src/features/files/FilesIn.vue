<script setup lang="ts">
import { PhFileArrowUp } from '@phosphor-icons/vue'
import { Button, Checkbox, Modal } from 'ant-design-vue'
import { computed, onMounted, reactive, ref, watch } from 'vue'
import { answer, api } from '../../api/client.ts'
import { useAttempt } from '../../ui/attempt.ts'
import ChooseOne from '../../ui/ChooseOne.vue'
import { say } from '../../stores/messages.ts'
import { useSession } from '../../stores/session.ts'
import type { Connection } from '../../stores/connections.ts'
import ColumnMapping, { type Mapping } from './ColumnMapping.vue'
import FileEntries from './FileEntries.vue'

/** A file, looked at before anything comes in: what is new, changed, the same, and not understood. */
const props = defineProps<{ dropped: File | null; connections: Connection[] }>()
const emit = defineEmits<{ close: [] }>()

const MAX = 12_000_000
const session = useSession()
const zone = computed(() => session.person?.zone ?? 'UTC')
const { busy, reason, attempt } = useAttempt()
const name = ref('')
const text = ref('')
const into = reactive<{ task: string | null; event: string | null }>({ task: null, event: null })
const take = reactive({ new: true, changed: true })
const except = ref<string[]>([])

const ask = (mapping: Mapping | null) =>
  answer(() => api.files.read.$post({ json: { text: text.value, mapping, into: { ...into } } }))
type Read = Awaited<ReturnType<typeof ask>>
const read = ref<Read | null>(null)
const mapping = ref<Mapping | null>(null)

const places = computed(() =>
  props.connections.flatMap(c =>
    c.collections
      .filter(k => k.writable && k.takesPart)
      .map(k => ({
        value: k.id,
        label: `${c.name} · ${k.name}`,
        itemKind: k.itemKind,
        own: c.kind === 'own',
      })),
  ),
)
const placesFor = (itemKind: 'task' | 'event') => places.value.filter(p => p.itemKind === itemKind)
watch(
  places,
  () => {
    // Into our own lists, unless somebody says otherwise: nobody else's calendar is filled by a slip.
    for (const itemKind of ['task', 'event'] as const)
      into[itemKind] ??=
        placesFor(itemKind).find(p => p.own && /^Kept here · Own/.test(p.label))?.value ??
        placesFor(itemKind)[0]?.value ??
        null
  },
  { immediate: true },
)

async function open(file: File): Promise<void> {
  name.value = file.name
  read.value = null
  mapping.value = null
  except.value = []
  if (file.size > MAX) {
    reason.value = `${file.name} is larger than 12 MB. Split it, and import one part after the other.`
    return
  }
  text.value = await file.text()
  await look()
}
async function look(): Promise<void> {
  await attempt(async () => {
    const found = await ask(mapping.value)
    read.value = found
    mapping.value = found.table?.mapping ?? null
  })
}
async function choose(event: Event): Promise<void> {
  const input = event.target as HTMLInputElement
  const [file] = input.files ?? []
  if (file) await open(file)
  input.value = ''
}
onMounted(() => {
  if (props.dropped) void open(props.dropped)
})

const counted = computed(() => {
  const r = read.value
  if (!r) return { made: 0, changed: 0 }
  const left = new Set(except.value)
  const out = (list: Read['new']): number => list.filter(e => left.has(e.key)).length
  return {
    made: take.new ? r.counts.new - out(r.new) : 0,
    changed: take.changed ? r.counts.changed - out(r.changed) : 0,
  }
})
const button = computed(() => {
  const { made, changed } = counted.value
  const parts = [made > 0 ? `import ${made}` : '', changed > 0 ? `change ${changed}` : ''].filter(Boolean)
  const words = parts.join(', ') || 'nothing to import'
  return words.charAt(0).toUpperCase() + words.slice(1)
})

async function bring(): Promise<void> {
  await attempt(async () => {
    const done = await answer(() =>
      api.files['bring-in'].$post({
        json: {
          text: text.value,
          mapping: mapping.value,
          into: { ...into },
          takeNew: take.new,
          takeChanged: take.changed,
          except: except.value,
        },
      }),
    )
    const left =
      done.left.length > 0 ? ` ${done.left.length} were left out: ${done.left[0]?.reason ?? ''}` : ''
    say({ text: `${name.value}: ${done.made} on their way in, ${done.changed} changed.${left}` })
    emit('close')
  })
}
</script>

<template>
  <Modal
    open
    :title="name ? `Import ${name}` : 'Import a file'"
    :footer="null"
    :width="820"
    @cancel="emit('close')"
  >
    <p v-if="!read" class="quiet">
      A calendar file (.ics), JSCalendar (.json) or a table (.csv), up to 12 MB. You see what is in it first.
    </p>
    <label class="pick">
      <PhFileArrowUp :size="16" aria-hidden="true" /> {{ read ? 'Another file' : 'Choose a file' }}
      <input
        class="visually-hidden"
        type="file"
        accept=".ics,.ical,.ifb,.csv,.tsv,.txt,.json,text/calendar,text/csv"
        @change="choose"
      />
    </label>
    <p v-if="busy && !read" role="status">Reading {{ name }} …</p>
    <p v-if="reason" class="why" role="alert">{{ reason }}</p>
    <template v-if="read">
      <ColumnMapping
        v-if="read.table && mapping"
        v-model="mapping"
        :headings="read.table.headings"
        :sample="read.table.sample"
        :remembered="read.table.remembered"
        @changed="look"
      />
      <div class="into">
        <label v-if="read.counts.task > 0">
          Tasks go to
          <ChooseOne
            v-model="into.task"
            name="Tasks go to"
            :options="placesFor('task')"
            @update:model-value="look"
          />
        </label>
        <label v-if="read.counts.event > 0">
          Events go to
          <ChooseOne
            v-model="into.event"
            name="Events go to"
            :options="placesFor('event')"
            @update:model-value="look"
          />
        </label>
      </div>
      <div class="groups">
        <section v-if="read.counts.new > 0" aria-label="New">
          <h3>
            <Checkbox v-model:checked="take.new">{{ read.counts.new }} new</Checkbox>
          </h3>
          <FileEntries
            v-if="take.new"
            v-model="except"
            :entries="read.new"
            :count="read.counts.new"
            :zone="zone"
          />
        </section>
        <section v-if="read.counts.changed > 0" aria-label="Changed">
          <h3>
            <Checkbox v-model:checked="take.changed">{{ read.counts.changed }} changed</Checkbox>
          </h3>
          <FileEntries
            v-if="take.changed"
            v-model="except"
            :entries="read.changed"
            :count="read.counts.changed"
            :zone="zone"
          />
        </section>
        <p v-if="read.counts.same > 0">
          <b>{{ read.counts.same }}</b> the same as here; nothing to do.
        </p>
        <section v-if="read.counts.apart + read.counts.problems > 0" aria-label="Not brought in">
          <h3>{{ read.counts.apart + read.counts.problems }} not brought in</h3>
          <ul>
            <li v-for="p in read.problems" :key="`${p.where} ${p.reason}`">
              <b>{{ p.where }}</b> <span class="why">{{ p.reason }}</span>
            </li>
            <li v-for="e in read.apart" :key="e.key">
              <b>{{ e.title }}</b> <span class="why">{{ e.reason }}</span>
            </li>
          </ul>
        </section>
      </div>
      <div class="foot">
        <Button @click="emit('close')">Cancel</Button>
        <Button
          type="primary"
          :loading="busy"
          :disabled="counted.made + counted.changed === 0"
          @click="bring"
          >{{ button }}</Button
        >
      </div>
    </template>
  </Modal>
</template>

<style scoped>
.into {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 24px;
  margin: 10px 0;
}
.into label {
  display: inline-flex;
  align-items: center;
  gap: 8px;
}
.groups {
  max-height: 46vh;
  overflow: auto;
}
.groups ul {
  list-style: none;
  margin: 4px 0 10px;
  padding: 0 0 0 24px;
}
.foot {
  display: flex;
  justify-content: flex-end;
  gap: 8px;
  margin-top: 12px;
}
.why {
  color: var(--clay);
}
</style>
