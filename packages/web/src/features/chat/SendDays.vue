<script setup lang="ts">
import { LEVEL_WORDS } from '@loom/core/view'
import { Modal } from 'ant-design-vue'
import { computed, ref, watch } from 'vue'
import { Refused } from '../../api/client.ts'
import { type DaysToTell, sendMessage, tellDays, type ToldLevel, useChats } from '../../stores/chat.ts'
import { say } from '../../stores/messages.ts'
import { useAttempt } from '../../ui/attempt.ts'
import SentenceChoice from '../../ui/SentenceChoice.vue'

/** A day or a row as a message: to which channel, how much of it, and exactly what will be written. */
const props = defineProps<{ told: DaysToTell }>()
const emit = defineEmits<{ close: [] }>()

const { chats } = useChats()
const places = computed(() =>
  chats.value.flatMap(chat =>
    chat.channels.map(k => ({
      value: `${chat.id} ${k.id}`,
      label: chats.value.length > 1 ? `${chat.name}: ${k.name}` : k.name,
      chat,
      channel: k.id,
    })),
  ),
)
const LEVELS = (['busy', 'title', 'everything'] as const).map(value => ({
  value,
  label: LEVEL_WORDS[value].name,
}))
const chosen = ref('')
watch(
  places,
  all => {
    if (!all.some(p => p.value === chosen.value)) chosen.value = all[0]?.value ?? ''
  },
  { immediate: true },
)
const place = computed(() => places.value.find(p => p.value === chosen.value))
const level = ref<ToldLevel>('title')
const text = ref('')
const composed = ref('')
const trouble = ref('')
/** What is shown may be more than what was chosen last: until then nothing is sent. */
const isComposing = ref(true)
const isTyped = computed(() => text.value !== composed.value)
watch(
  [() => props.told, level],
  async () => {
    trouble.value = ''
    isComposing.value = true
    const [days, asked] = [props.told, level.value]
    try {
      const found = await tellDays(days, asked)
      if (props.told !== days || level.value !== asked) return
      composed.value = found
      text.value = found
      isComposing.value = false
    } catch (error) {
      if (!(error instanceof Refused)) throw error
      if (props.told !== days || level.value !== asked) return
      trouble.value = error.message
      text.value = composed.value = ''
    }
  },
  { immediate: true },
)
const tooLong = computed(() => {
  const most = place.value?.chat.maxLength ?? Infinity
  return text.value.length > most
    ? `${text.value.length - most} characters too many for ${place.value?.chat.name}.`
    : ''
})
const canSend = computed(
  () => place.value !== undefined && !isComposing.value && text.value.trim() !== '' && tooLong.value === '',
)
const { busy, reason, attempt } = useAttempt()
async function send(): Promise<void> {
  const to = place.value
  if (!to || !canSend.value) return
  const ok = await attempt(() => sendMessage(to.chat.id, to.channel, text.value.trim()))
  if (!ok) return
  say({ text: `${props.told.name}: written to ${to.label}.` })
  emit('close')
}
</script>

<template>
  <Modal
    open
    :title="`Send ${told.name} to a chat`"
    ok-text="Send"
    :ok-button-props="{ disabled: !canSend, loading: busy }"
    :width="520"
    @ok="send"
    @cancel="emit('close')"
  >
    <p v-if="places.length === 0" class="quiet">
      No chat with channels is connected by you.
      <RouterLink to="/connections">Connect one</RouterLink>
    </p>
    <template v-else>
      <p>
        To <SentenceChoice v-model="chosen" name="Channel" :options="places" />, showing
        <SentenceChoice v-model="level" name="How much is shown" :options="LEVELS" />
      </p>
      <label>
        <span class="quiet">This is what will be written. You can change it.</span>
        <textarea v-model="text" class="native" rows="12" spellcheck="false"></textarea>
      </label>
      <p v-if="isTyped" class="quiet">Showing more or less writes it anew.</p>
      <p class="quiet">Only lists that are yours to show are in it; what is private is taken time.</p>
    </template>
    <p v-if="trouble || reason || tooLong" class="wrong" role="alert">{{ trouble || reason || tooLong }}</p>
  </Modal>
</template>

<style scoped>
label {
  display: grid;
  gap: 4px;
  margin-bottom: 8px;
}
textarea {
  width: 100%;
  box-sizing: border-box;
  height: 250px;
  resize: vertical;
  line-height: 1.45;
}
p {
  margin: 0 0 8px;
}
.quiet {
  font-size: 12.5px;
}
.wrong {
  color: var(--clay);
}
</style>
