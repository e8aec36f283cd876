<script setup lang="ts">
import type { Clause, ViewBody } from '@loom/core/view'
import { computed } from 'vue'
import { type Dyed, NONE } from './data/dyes.ts'
import type { Scene } from './data/use-scene.ts'

/** What the colours on the Cloth mean, how many there are of each, and only one of them at one click. */
const props = defineProps<{ scene: Scene }>()
const emit = defineEmits<{ set: [patch: Partial<ViewBody>] }>()

const MOST = 14
const body = computed(() => props.scene.body.value)
const lines = computed(() => {
  const found = new Map<string, Dyed & { count: number }>()
  for (const item of props.scene.shown.value)
    for (const dyed of props.scene.dyes.value(item)) {
      const line = found.get(dyed.key) ?? { ...dyed, count: 0 }
      line.count++
      found.set(dyed.key, line)
    }
  // The most first; what has none of them last.
  return [...found.values()].sort(
    (x, y) => Number(x.key === NONE) - Number(y.key === NONE) || y.count - x.count,
  )
})
const FIELDS = { category: 'category', person: 'member' } as const
const field = computed(() =>
  body.value.dyed in FIELDS ? FIELDS[body.value.dyed as keyof typeof FIELDS] : null,
)
const isOnly = (key: string): boolean =>
  body.value.filter.some(c => c.field === field.value && 'is' in c && c.is.length === 1 && c.is[0] === key)

function toggle(key: string): void {
  const filter: Clause[] = body.value.filter
  const rest = filter.filter(c => c.field !== field.value)
  const only: Clause[] = field.value && !isOnly(key) ? [{ field: field.value, is: [key] }] : []
  emit('set', { filter: [...rest, ...only] })
}
</script>

<template>
  <div class="legend" role="group" aria-label="What the colours mean">
    <template v-for="l in lines.slice(0, MOST)" :key="l.key">
      <button
        v-if="field && l.key !== NONE"
        type="button"
        class="plain one"
        :aria-pressed="isOnly(l.key)"
        :title="isOnly(l.key) ? 'Show all again' : `Only ${l.name}`"
        @click="toggle(l.key)"
      >
        <i :style="{ background: l.dye }" />{{ l.name }} <b>{{ l.count }}</b>
      </button>
      <span v-else class="one"
        ><i :style="{ background: l.dye }" />{{ l.name }} <b>{{ l.count }}</b></span
      >
    </template>
    <span v-if="lines.length > MOST" class="quiet">and {{ lines.length - MOST }} more</span>
    <RouterLink v-if="body.dyed === 'category'" to="/categories" class="all">Names and colours</RouterLink>
  </div>
</template>

<style scoped>
.legend {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 2px 2px;
  /* Beside what is now, below the sentence. */
  flex: 1 1 640px;
  font-size: 13px;
}
.one {
  display: flex;
  align-items: center;
  gap: 6px;
  padding: 1px 7px;
  border: 1px solid transparent;
  border-radius: 3px;
}
button.one:hover {
  border-color: var(--warp-strong);
}
.one[aria-pressed='true'] {
  background: var(--amber-wash);
  border-color: var(--amber);
}
.one b {
  color: var(--husk);
  font-weight: 400;
}
i {
  width: 5px;
  height: 14px;
  border-radius: 1px;
}
.all {
  margin-left: 8px;
  text-decoration: underline;
}
@media print {
  .all {
    display: none;
  }
}
</style>
