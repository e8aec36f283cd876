<script setup lang="ts">
import { Checkbox, Input, Modal } from 'ant-design-vue'
import { reactive } from 'vue'
import { useAttempt } from '../../../ui/attempt.ts'
import type { SavedView, View } from '../data/use-view.ts'
import { VIEW_SIGNS } from '../data/view-signs.ts'

/** Saves the current view under a name. */
const props = defineProps<{ view: View }>()
const emit = defineEmits<{ close: [] }>()
const given = reactive({ name: '', icon: 'leaf' as SavedView['icon'], team: false })
const { busy, reason, attempt } = useAttempt()

async function saveAs(): Promise<void> {
  if (given.name.trim() && (await attempt(() => props.view.saveAs({ ...given, name: given.name.trim() }))))
    emit('close')
}
</script>

<template>
  <Modal
    open
    title="Save as a view"
    :ok-text="given.team ? 'Save for the team' : 'Save for me'"
    :ok-button-props="{ disabled: !given.name.trim(), loading: busy }"
    :width="440"
    @ok="saveAs"
    @cancel="emit('close')"
  >
    <Input
      v-model:value="given.name"
      aria-label="Name of the view"
      placeholder="Name"
      :maxlength="100"
      @press-enter="saveAs"
    />
    <div class="icons" role="radiogroup" aria-label="Sign">
      <button
        v-for="(sign, i) in VIEW_SIGNS"
        :key="i"
        type="button"
        class="plain icon"
        role="radio"
        :aria-checked="given.icon === i"
        :aria-label="i"
        @click="given.icon = i"
      >
        <component :is="sign" :size="18" />
      </button>
    </div>
    <Checkbox v-model:checked="given.team">The team’s: every member sees it and may change it</Checkbox>
    <p v-if="reason" class="wrong" role="alert">{{ reason }}</p>
  </Modal>
</template>

<style scoped>
.icons {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  margin: 12px 0;
}
.icon {
  display: grid;
  place-items: center;
  width: 32px;
  height: 32px;
  border: 1px solid var(--warp-strong);
  border-radius: 3px;
}
.icon[aria-checked='true'] {
  border-color: var(--amber);
  background: var(--amber-wash);
}
.wrong {
  color: var(--clay);
}
</style>
