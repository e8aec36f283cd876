<script setup lang="ts">
import { PhX } from '@phosphor-icons/vue'
import { computed } from 'vue'
import { useFocus } from '../stores/focus.ts'
import { useSession } from '../stores/session.ts'
import { clockWords } from '../ui/telling.ts'

/** On every screen while somebody wants to be left alone: until when, and the end of it. */
const props = defineProps<{ enabled: boolean }>()
const { untilMs, end } = useFocus(() => props.enabled)
const session = useSession()
const until = computed(() =>
  untilMs.value === null ? '' : clockWords(untilMs.value, session.person?.zone ?? 'UTC'),
)
</script>

<template>
  <span v-if="until" class="focus" title="Messages wait until then">
    In focus until {{ until }}
    <button type="button" class="plain end" title="End focus" aria-label="End focus" @click="end">
      <PhX :size="13" />
    </button>
  </span>
</template>

<style scoped>
.focus {
  display: flex;
  align-items: center;
  gap: 6px;
  padding: 2px 8px;
  border: 1px solid #e8a33d;
  border-radius: 3px;
  font-size: 13px;
  white-space: nowrap;
}
.end {
  display: flex;
}
</style>
