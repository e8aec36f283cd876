<script setup lang="ts">
import type { ClothItem } from '@loom/core/view'
import { Modal } from 'ant-design-vue'
import { computed, ref, watch } from 'vue'
import { answer, api, Refused } from '../../../api/client.ts'
import ChooseOne from '../../../ui/ChooseOne.vue'
import { useAttempt } from '../../../ui/attempt.ts'
import { say } from '../../../stores/messages.ts'
import { takeBackMade } from '../../../stores/take-back.ts'
import type { Source } from '../data/signs.ts'

/** To another list or calendar: what cannot be held there is named before anything is done. */
const props = defineProps<{ item: ClothItem; sources: readonly Source[] }>()
const emit = defineEmits<{ close: [] }>()

const isTask = computed(() => props.item.kind === 'task' || props.item.kind === 'tied')
const options = computed(() =>
  props.sources
    .filter(s => s.writable && (s.itemKind === 'task') === isTask.value && s.id !== props.item.sources[0])
    .map(s => ({ value: s.id, label: `${s.service} · ${s.name}` })),
)
const to = ref<string | null>(null)
type Outlook = { to: string; losses: string[]; parts: number; blocks: number }
const outlook = ref<Outlook | null>(null)
const why = ref('')
const { busy, reason, attempt } = useAttempt()

watch(to, async id => {
  outlook.value = null
  why.value = ''
  if (!id) return
  try {
    outlook.value = await answer(() =>
      api.cloth[':key'].move.$get({ param: { key: props.item.key }, query: { to: id } }),
    )
  } catch (error) {
    if (!(error instanceof Refused)) throw error
    why.value = error.message
  }
})
const along = computed(() => {
  const o = outlook.value
  if (!o) return ''
  const parts = [
    o.parts > 0 ? `${o.parts} sub-task${o.parts === 1 ? '' : 's'}` : '',
    o.blocks > 0 ? `${o.blocks} block${o.blocks === 1 ? '' : 's'}` : '',
  ].filter(Boolean)
  return parts.length > 0 ? ` with ${parts.join(' and ')}` : ''
})
async function done(): Promise<void> {
  const id = to.value
  if (!id || !outlook.value) return
  const where = outlook.value.to
  const { key, title } = props.item
  let intent = ''
  const ok = await attempt(async () => {
    const moved = await answer(() => api.cloth[':key'].move.$post({ param: { key }, json: { to: id } }))
    intent = moved.intent
  })
  if (!ok) return
  say({
    text: `${title}: on its way to ${where}. The original goes last.`,
    undo: () => void takeBackMade(intent, title),
    back: { do: 'made', title, intent },
  })
  emit('close')
}
</script>

<template>
  <Modal
    open
    :title="`Move “${item.title}”`"
    :ok-text="outlook && outlook.losses.length > 0 ? 'Move anyway' : 'Move'"
    :ok-button-props="{ disabled: !outlook, loading: busy }"
    :width="460"
    @ok="done"
    @cancel="emit('close')"
  >
    <p>
      From {{ sources.find(s => s.id === item.sources[0])?.name }} to
      <ChooseOne v-model="to" name="Where to" :options="options" none="choose…" />
    </p>
    <p v-if="outlook" aria-live="polite">
      It is copied to {{ outlook.to }}{{ along }}, then taken from where it is now.
      <template v-if="outlook.losses.length === 0">Everything it says has room there.</template>
      <template v-else>What is not supported there:</template>
    </p>
    <ul v-if="outlook && outlook.losses.length > 0">
      <li v-for="l in outlook.losses" :key="l">{{ l }}</li>
    </ul>
    <p v-if="why || reason" class="wrong" role="alert">{{ why || reason }}</p>
  </Modal>
</template>

<style scoped>
.wrong {
  color: var(--clay);
}
</style>
