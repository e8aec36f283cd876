<script setup lang="ts">
import type { RuleSettings } from '@loom/core/view'
import { computed } from 'vue'
import RuleFilter from './RuleFilter.vue'
import RuleLists from './RuleLists.vue'
import SideChoice from './SideChoice.vue'

/** The head of one side of the sheet: which list or calendar it is, and who takes part. */
const props = defineProps<{
  side: 'a' | 'b'
  itemKind: 'task' | 'event'
  /** Both sides hold the same, so they are told apart by their order. */
  alike: boolean
  options: { value: string; label: string; disabled: boolean }[]
  fixed: boolean
  chosen: { dye: string; items: number } | undefined
  /** Accounts at which a new calendar can be made. */
  makers: readonly { id: string; name: string }[]
}>()
const emit = defineEmits<{ make: [connection: string] }>()
const id = defineModel<string | undefined>({ required: true })
const settings = defineModel<RuleSettings>('settings', { required: true })

const nth = computed(() => (props.side === 'a' ? 'first' : 'second'))
const what = computed(() => (props.itemKind === 'task' ? 'Task list' : 'Calendar'))
const name = computed(() => (props.alike ? `${props.side === 'a' ? 'First' : 'Second'} side` : what.value))
</script>

<template>
  <div class="side">
    <span class="dye" :style="{ background: chosen?.dye ?? 'var(--warp-strong)' }" />
    <div class="says">
      <h2>{{ what }}{{ alike ? `, ${nth} side` : '' }}</h2>
      <SideChoice
        v-model="id"
        :options="options"
        :disabled="fixed"
        :name="name"
        :empty="itemKind === 'task' ? 'Choose a task list' : 'Choose a calendar'"
        :makers="makers"
        @make="connection => emit('make', connection)"
      />
      <span v-if="chosen" class="quiet"
        >{{ chosen.items }} {{ itemKind }}s,
        <RuleFilter
          v-model="settings.filter[side]"
          :name="`Who takes part, ${nth} side`"
          :item-kind="itemKind" />,
        <RuleLists
          v-if="id"
          v-model="settings"
          :side="side"
          :name="`Which take part, ${nth} side`"
          :item-kind="itemKind"
          :home="id"
          :options="options"
      /></span>
    </div>
  </div>
</template>

<style scoped>
.side {
  padding: 9px 14px;
  display: flex;
  gap: 10px;
  align-items: stretch;
}
.says {
  display: grid;
  gap: 4px;
  flex: 1;
  min-width: 0;
  align-content: start;
}
.says .quiet {
  font-size: 13px;
}
@media (max-width: 560px) {
  .side {
    padding: 8px 6px;
  }
  .dye {
    display: none;
  }
}
</style>
