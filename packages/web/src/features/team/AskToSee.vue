<script setup lang="ts">
import { LEVEL_WORDS } from '@loom/core/view'
import { Modal } from 'ant-design-vue'
import { computed, ref } from 'vue'
import ChooseOne from '../../ui/ChooseOne.vue'
import { type AskedLevel, askToSee, type SeeMore } from './asking.ts'

/** Asks whoever it belongs to for more of it. */
const props = defineProps<{ of: SeeMore; level: AskedLevel }>()
const emit = defineEmits<{ close: [] }>()
const level = ref<AskedLevel>(props.level)
const LEVELS = (['title', 'everything', 'change'] as const).map(value => ({
  value,
  label: LEVEL_WORDS[value].name,
}))
const whom = computed(() => ('person' in props.of ? props.of.name : 'Whoever it belongs to'))
async function send(): Promise<void> {
  await askToSee(props.of, level.value)
  emit('close')
}
</script>

<template>
  <Modal
    open
    :title="'person' in of ? `Ask ${of.name}` : `Ask for more of ${of.name}`"
    ok-text="Ask"
    :width="400"
    @ok="send"
    @cancel="emit('close')"
  >
    <p class="sentence">
      <span>To let me see</span>
      <ChooseOne
        :model-value="level"
        name="How much"
        class="level"
        :options="LEVELS"
        @update:model-value="v => v && (level = v)"
      />
      <span>{{ 'person' in of ? 'of what is only busy to me.' : 'of it.' }}</span>
    </p>
    <p class="quiet">{{ LEVEL_WORDS[level].shows }}. {{ whom }} decides, and can say no.</p>
  </Modal>
</template>

<style scoped>
.sentence {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  align-items: center;
}
.level {
  width: 130px;
}
</style>
