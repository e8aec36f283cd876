<script setup lang="ts">
import { whenWords } from '../../../ui/telling.ts'
import { type ClothItem, dayWords, type Edit } from '@loom/core/view'
import { useQuery } from '@pinia/colada'
import { Button, Drawer, Input } from 'ant-design-vue'
import { computed, ref, useTemplateRef, watch } from 'vue'
import { answer, api } from '../../../api/client.ts'
import { say } from '../../../stores/messages.ts'
import { useAttempt } from '../../../ui/attempt.ts'
import ItemComments from './ItemComments.vue'
import ItemFacts from './ItemFacts.vue'
import ItemHistory from './ItemHistory.vue'
import ItemParts from './ItemParts.vue'
import ItemWaits from './ItemWaits.vue'
import ItemReminder from './ItemReminder.vue'
import ItemTime from './ItemTime.vue'
import NotesField from './NotesField.vue'
import type { Source } from '../data/signs.ts'
import TaskTick from './TaskTick.vue'
import { KIND_WORDS, placeWords } from '../data/words.ts'

/** Everything about one item, editable where its service allows it, and saying why where it does not. */
const props = defineProps<{ item: ClothItem; zone: string; now: number; sources: readonly Source[] }>()
const emit = defineEmits<{
  /** Only what has this category is to be shown. */
  only: [category: string]
  edit: [item: ClothItem, edit: Edit]
  go: [key: string]
  ask: [act: 'place' | 'give', item: ClothItem]
  batch: [tasks: string[]]
  close: []
}>()

const query = useQuery({
  key: () => ['cloth', 'item', props.item.key],
  query: () => answer(() => api.cloth[':key'].$get({ param: { key: props.item.key } })),
})
const details = computed(() => query.data.value)
const item = computed(() => details.value?.item ?? props.item)
const isTask = computed(() => item.value.kind === 'task' || item.value.kind === 'tied')
const side = computed(() => details.value?.task ?? details.value?.event ?? null)
const writable = computed(() => side.value?.writable ?? false)
const locked = computed(() => {
  if (item.value.onlyLook) return 'You may look at this, and not change it.'
  if (!writable.value) return 'Read-only: edit it in its service. When it is planned is kept here.'
  return side.value?.unsupported.includes('description')
    ? 'Its service does not allow editing notes from here.'
    : ''
})

const title = ref(props.item.title)
watch(item, (now, before) => {
  if (title.value === before.title) title.value = now.title
})
const { attempt, reason } = useAttempt()
const panel = useTemplateRef<HTMLElement>('panel')
const parted = (tie: string, isParted: boolean): Promise<boolean> =>
  attempt(() => answer(() => api.ties[':id'].$put({ param: { id: tie }, json: { parted: isParted } })))
/** The task and its event stay, each by itself. */
async function part(tie: string): Promise<void> {
  const { title: name } = item.value
  if (!(await parted(tie, true))) return
  // The button that was pressed is gone, and keys still mean the drawer.
  panel.value?.focus()
  say({
    text: `“${name}”: both sides stay as they are, and are no longer kept in step.`,
    undo: () => void tieAgain(tie),
  })
}
/** The drawer may be closed by then, so a refusal is a message too. */
async function tieAgain(tie: string): Promise<void> {
  if (!(await parted(tie, false))) say({ text: reason.value, tone: 'wrong' })
}

function rename(): void {
  const next = title.value.trim()
  if (next && next !== item.value.title) emit('edit', props.item, { do: 'rename', title: next })
  else title.value = item.value.title
}
</script>

<template>
  <Drawer
    open
    :mask="false"
    width="min(440px, 100vw)"
    :closable="false"
    root-class-name="under-band"
    @close="emit('close')"
  >
    <aside ref="panel" tabindex="-1" :aria-label="`Details of ${item.title}`">
      <div class="bar">
        <strong>{{ KIND_WORDS[item.kind] }}</strong>
        <Button size="small" @click="emit('close')">Close</Button>
      </div>
      <div class="title">
        <TaskTick
          v-if="isTask"
          :done="item.done"
          :title="item.title"
          :disabled="!item.completable"
          :round="item.recurring"
          @toggle="emit('edit', props.item, { do: item.done ? 'reopen' : 'complete' })"
        />
        <Input.TextArea
          v-model:value="title"
          :auto-size="{ minRows: 1, maxRows: 4 }"
          :disabled="!writable || side?.unsupported.includes('summary')"
          :maxlength="500"
          aria-label="Title"
          @blur="rename"
          @keydown.enter.prevent="rename"
        />
      </div>
      <p v-if="!writable && side" class="quiet">{{ locked }}</p>
      <p v-if="reason" class="wrong" role="alert">{{ reason }}</p>

      <ItemFacts
        v-if="details"
        :item="item"
        :details="details"
        :sources="sources"
        :when="placeWords(item, zone)"
        :zone="zone"
        @ask="act => emit('ask', act, props.item)"
        @part="part"
        @only="category => emit('only', category)"
        @edit="edit => emit('edit', props.item, edit)"
        @go="key => emit('go', key)"
        @settled="query.refetch()"
      />
      <p v-else-if="query.error.value" class="wrong" role="alert">{{ query.error.value.message }}</p>
      <p v-else class="quiet">Fetching the rest…</p>

      <template v-if="details">
        <ItemParts
          :item="item"
          :details="details"
          :zone="zone"
          :now="now"
          @edit="(of, edit) => emit('edit', of, edit)"
          @go="key => emit('go', key)"
          @batch="tasks => emit('batch', tasks)"
        />
        <ItemWaits v-if="isTask" :item="item" :may-change="details.mayChange" @go="key => emit('go', key)" />
        <ItemReminder v-if="item.place.kind === 'timed' || item.due !== null" :item="item" />
        <ItemTime :item="item" :zone="zone" />
        <NotesField
          :text="details.description"
          :locked="locked"
          @save="description => emit('edit', props.item, { do: 'say', said: { description } })"
        />
        <ItemComments :item="item.key" :zone="zone" />
        <ItemHistory :item="item.key" :zone="zone" />
        <p class="quiet foot">
          {{
            details.task?.created
              ? `Made ${whenWords({ kind: 'date', date: details.task.created.slice(0, 10) }, zone)}.`
              : ''
          }}
          {{ item.due && item.overdue ? `Was due ${dayWords(item.due)}.` : '' }}
        </p>
      </template>
    </aside>
  </Drawer>
</template>

<style scoped>
.bar {
  display: flex;
  justify-content: space-between;
  margin-bottom: 12px;
}
.title {
  display: flex;
  align-items: center;
  gap: 10px;
}
.title :deep(textarea) {
  font:
    700 18px/1.3 'Bricolage Grotesque Variable',
    sans-serif;
}
.wrong {
  color: var(--clay);
}
aside:focus {
  outline: none;
}
</style>
