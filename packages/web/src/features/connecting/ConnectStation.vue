<script setup lang="ts">
import { PhCheck } from '@phosphor-icons/vue'
import { nextTick, useTemplateRef, watch } from 'vue'

/** One station on the way from choosing a service to its first items: open, behind, or still ahead. */
const props = defineProps<{
  number: number
  title: string
  state: 'ahead' | 'open' | 'behind'
  said?: string
}>()
const emit = defineEmits<{ open: [] }>()

const heading = useTemplateRef<HTMLElement>('heading')
watch(
  () => props.state,
  async (is, was) => {
    if (is !== 'open' || was === 'open') return
    await nextTick()
    heading.value?.focus({ preventScroll: true })
    heading.value?.scrollIntoView({ block: 'nearest' })
  },
)
</script>

<template>
  <section class="sheet station" :class="state" :aria-label="title">
    <header>
      <span class="number" aria-hidden="true">
        <PhCheck v-if="state === 'behind'" :size="15" weight="bold" />
        <template v-else>{{ number }}</template>
      </span>
      <h2 ref="heading" tabindex="-1">{{ title }}</h2>
      <span v-if="state === 'behind' && said" class="said">{{ said }}</span>
      <button v-if="state === 'behind'" type="button" class="plain again" @click="emit('open')">
        Change<span class="visually-hidden"> {{ title }}</span>
      </button>
    </header>
    <div v-if="state === 'open'" class="body"><slot /></div>
  </section>
</template>

<style scoped>
.station {
  margin-bottom: 8px;
}
header {
  display: flex;
  align-items: center;
  gap: 12px;
  padding: 9px 14px;
  min-height: 24px;
}
h2:focus {
  outline: none;
}
.number {
  display: grid;
  place-items: center;
  flex: none;
  width: 22px;
  height: 22px;
  border: 1px solid var(--warp-strong);
  border-radius: 3px;
  font-size: 12.5px;
  color: var(--husk);
}
.open .number {
  border-color: var(--amber);
  background: var(--amber-wash);
  color: var(--peat);
}
.behind .number {
  color: var(--moss);
}
.ahead {
  background: none;
  border-style: dashed;
}
.ahead h2 {
  color: var(--husk);
  font-weight: 400;
}
.said {
  flex: 1;
  min-width: 0;
  color: var(--husk);
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.again {
  margin-left: auto;
  color: var(--amber);
  text-decoration: underline;
}
.body {
  padding: 4px 14px 14px 48px;
}
@media (max-width: 560px) {
  .body {
    padding-left: 14px;
  }
}
</style>
