<script setup lang="ts">
import { Button, Input } from 'ant-design-vue'
import { renderSVG } from 'uqr'
import { computed, ref } from 'vue'
import { answer, api } from '../../api/client.ts'
import { useAttempt } from '../../ui/attempt.ts'
import RecoveryCodes from './RecoveryCodes.vue'

/** Puts a secret into an authenticator, asks for a first code, and gives the recovery codes. */
const emit = defineEmits<{ done: [] }>()
const begun = ref<{ key: string; uri: string } | null>(null)
const code = ref('')
const recovery = ref<string[]>([])
const { busy, reason, attempt } = useAttempt()

/** Dark on light in every theme: telephones read it best. */
const picture = computed(() =>
  begun.value
    ? `data:image/svg+xml;utf8,${encodeURIComponent(renderSVG(begun.value.uri, { blackColor: '#2b211a', whiteColor: '#fffdf9' }))}`
    : '',
)
const inFours = computed(() => begun.value?.key.match(/.{1,4}/g)?.join(' ') ?? '')

const begin = () =>
  attempt(async () => {
    begun.value = await answer(() => api.account.second.codes.$post())
  })
async function confirm(): Promise<void> {
  await attempt(async () => {
    const json = { code: code.value }
    recovery.value = (await answer(() => api.account.second.codes.confirm.$post({ json }))).recovery
  })
  code.value = ''
}
</script>

<template>
  <RecoveryCodes v-if="recovery.length > 0" :codes="recovery" @done="emit('done')" />
  <form v-else-if="begun" class="setup" @submit.prevent="confirm">
    <img :src="picture" width="168" height="168" alt="The key as a picture, for an authenticator to read" />
    <div class="words">
      <p>Read this with an authenticator on your telephone, or type the key there:</p>
      <code>{{ inFours }}</code>
      <label>
        The six digits it shows now
        <Input
          v-model:value="code"
          inputmode="numeric"
          autocomplete="one-time-code"
          :maxlength="12"
          class="digits"
        />
      </label>
      <Button type="primary" html-type="submit" :loading="busy" :disabled="!code.trim()"
        >Turn on codes</Button
      >
    </div>
    <p v-if="reason" class="why" role="alert">{{ reason }}</p>
  </form>
  <div v-else>
    <Button :loading="busy" @click="begin">Set up one-time codes</Button>
    <p v-if="reason" class="why" role="alert">{{ reason }}</p>
  </div>
</template>

<style scoped>
.setup {
  display: flex;
  flex-wrap: wrap;
  gap: 18px;
}
img {
  border: 1px solid var(--warp);
  border-radius: 3px;
}
.words {
  display: grid;
  gap: 8px;
  flex: 1;
  min-width: 220px;
  justify-items: start;
}
p {
  margin: 0;
}
label {
  display: grid;
  gap: 4px;
}
.digits {
  width: 140px;
}
code {
  overflow-wrap: anywhere;
}
.why {
  color: var(--clay);
}
</style>
