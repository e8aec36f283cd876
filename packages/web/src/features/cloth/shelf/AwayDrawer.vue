<script setup lang="ts">
import { type ClothItem, dayAt, durationWords, type Edit, mondayOf, putByGroups } from '@loom/core/view'
import { Button, Drawer } from 'ant-design-vue'
import { computed } from 'vue'
import { useDrawnLines } from '../data/drawn-lines.ts'
import { type Source, sourceWords } from '../data/signs.ts'

/** The place to look through what was put by, and what was left out of one's plan. */
const props = defineProps<{
  items: readonly ClothItem[]
  sources: readonly Source[]
  now: number
  zone: string
}>()
const emit = defineEmits<{ edit: [item: ClothItem, edit: Edit]; close: [] }>()

const groups = computed(() => {
  const put = putByGroups(props.items, { now: props.now, zone: props.zone })
  const out = props.items.filter(i => i.leftOut && i.putBy === null && !i.done)
  return out.length > 0 ? [...put, { key: 'out', title: 'Left out of my plan', items: out }] : put
})
const lines = useDrawnLines((item: ClothItem) => item.key)
const thisWeek = computed(() => mondayOf(dayAt(props.now, props.zone)))
function back(item: ClothItem): void {
  emit(
    'edit',
    item,
    item.leftOut && item.putBy === null ? { do: 'leave-out', out: false } : { do: 'put-by', until: null },
  )
}
</script>

<template>
  <Drawer open width="min(440px, 100vw)" :closable="false" @close="emit('close')">
    <aside aria-label="Put by">
      <div class="bar">
        <h2>Put by</h2>
        <Button size="small" @click="emit('close')">Close</Button>
      </div>
      <p v-if="groups.length === 0" class="quiet">
        Nothing is put by. Put a task by to have it out of sight until a day, a week, or without a date.
      </p>
      <section v-for="g in groups" :key="g.key" :aria-label="g.title">
        <h3>{{ g.title }}</h3>
        <div v-for="item in lines.of(g)" :key="item.key" class="entry">
          <div class="what">
            <span>{{ item.title }}</span>
            <span class="quiet"
              >{{ sourceWords(item, sources)
              }}<template v-if="item.estimate !== null"> · {{ durationWords(item.estimate) }}</template></span
            >
          </div>
          <Button
            v-if="item.kind !== 'event'"
            size="small"
            :aria-label="`${item.title}: any day this week`"
            @click="emit('edit', item, { do: 'any-day', week: thisWeek })"
            >This week</Button
          >
          <Button size="small" :aria-label="`${item.title}: back now`" @click="back(item)">Back now</Button>
        </div>
        <button
          v-if="lines.of(g).length < g.items.length"
          type="button"
          class="plain more"
          @click="lines.more(g)"
        >
          {{ g.items.length - lines.of(g).length }} more<span class="visually-hidden"> of {{ g.title }}</span>
        </button>
      </section>
    </aside>
  </Drawer>
</template>

<style scoped>
.bar {
  display: flex;
  justify-content: space-between;
  margin-bottom: 12px;
}
h3 {
  margin: 14px 0 6px;
}
.entry {
  display: flex;
  align-items: center;
  gap: 8px;
  padding: 6px 0;
  border-top: 1px solid var(--warp);
}
.what {
  flex: 1;
  min-width: 0;
  display: grid;
}
.what span {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.more {
  padding: 6px 0;
  color: var(--amber);
  text-decoration: underline;
}
</style>
