<script setup lang="ts">
import { durationWords } from '@loom/core/view'
import { PhStop } from '@phosphor-icons/vue'
import { useIntervalFn } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import { useSession } from '../stores/session.ts'
import { useClock } from '../stores/time.ts'

/** The clock that runs, on every screen: what it is for, how long, and a way to stop it. */
const props = defineProps<{ enabled: boolean }>()
const { clock, stop } = useClock(() => props.enabled)
const session = useSession()
const now = ref(session.now())
const look = (): void => void (now.value = session.now())
useIntervalFn(look, 15_000)
watch(clock, look)
const ran = computed(() =>
  clock.value ? Math.max(0, Math.floor((now.value - clock.value.fromMs) / 60_000)) : 0,
)
</script>

<template>
  <span v-if="clock" class="clock">
    <RouterLink
      v-if="clock.key"
      :to="{ path: '/cloth', query: { item: clock.key } }"
      :title="`The clock runs: ${clock.title}`"
      ><span class="of">{{ clock.title }}</span>
      <span role="timer">{{ durationWords(ran) }}</span></RouterLink
    >
    <span v-else role="timer">{{ durationWords(ran) }}</span>
    <button type="button" class="plain stop" title="Stop the clock" aria-label="Stop the clock" @click="stop">
      <PhStop :size="13" weight="fill" />
    </button>
  </span>
</template>

<style scoped>
.clock {
  display: flex;
  align-items: center;
  gap: 7px;
  padding: 2px 8px;
  border: 1px solid #e8a33d;
  border-radius: 3px;
  font-size: 13px;
  white-space: nowrap;
}
.clock a {
  display: flex;
  gap: 7px;
  color: inherit;
}
.of {
  max-width: 120px;
  overflow: hidden;
  text-overflow: ellipsis;
}
.stop {
  display: flex;
}
@media (max-width: 1500px) {
  .of {
    display: none;
  }
}
</style>
