<script setup lang="ts">
import { type ClothItem, durationWords, type Edit, instantDayWords } from '@loom/core/view'
import { Button } from 'ant-design-vue'
import type { ItemDetails } from '../data/details.ts'
import { clockWords } from '../../../ui/telling.ts'
import TaskTick from './TaskTick.vue'

/** What an item is made of: the tasks of a batch, the blocks of a task, its sub-tasks. */
const props = defineProps<{ item: ClothItem; details: ItemDetails; zone: string; now: number }>()
const emit = defineEmits<{
  edit: [item: ClothItem, edit: Edit]
  go: [key: string]
  batch: [tasks: string[]]
}>()

interface Part {
  key: string
  title: string
  done: boolean
}
const check = ({ key, title, done }: Part): void =>
  emit('edit', { ...props.item, key, title }, { do: done ? 'reopen' : 'complete' })
const when = (startMs: number): string =>
  `${instantDayWords(startMs, props.zone)}, ${clockWords(startMs, props.zone)}`
function inBatch(key: string, by: -1 | 1 | null): void {
  const keys = props.item.batch.map(t => t.key)
  const at = keys.indexOf(key)
  if (by === null) keys.splice(at, 1)
  else if (at + by >= 0 && at + by < keys.length) keys.splice(at + by, 0, ...keys.splice(at, 1))
  emit('batch', keys)
}
</script>

<template>
  <section v-if="item.kind === 'batch'" aria-label="In this batch">
    <h3>In this batch</h3>
    <p v-if="item.batch.length === 0" class="quiet">
      Nothing yet. Drop tasks onto it, or pick it when you place one.
    </p>
    <div v-for="(t, i) in item.batch" :key="t.key" class="part">
      <TaskTick :done="t.done" :title="t.title" :disabled="!t.completable" @toggle="check(t)" />
      <button type="button" class="plain link" @click="emit('go', t.key)">{{ t.title }}</button>
      <Button size="small" :disabled="i === 0" :aria-label="`${t.title}: earlier`" @click="inBatch(t.key, -1)"
        >↑</Button
      >
      <Button
        size="small"
        :disabled="i === item.batch.length - 1"
        :aria-label="`${t.title}: later`"
        @click="inBatch(t.key, 1)"
        >↓</Button
      >
      <Button size="small" :aria-label="`${t.title}: out of the batch`" @click="inBatch(t.key, null)"
        >out</Button
      >
    </div>
  </section>
  <section v-if="details.blocks.length > 0" aria-label="Blocks">
    <h3>Blocks</h3>
    <div v-for="b in details.blocks" :key="b.key" class="part" :class="{ past: b.startMs < now }">
      <TaskTick
        :done="b.spent"
        :title="when(b.startMs)"
        :disabled="false"
        @toggle="emit('edit', { ...props.item, key: b.key, kind: 'block' }, { do: 'spend', spent: !b.spent })"
      />
      {{ when(b.startMs) }}
      <span class="quiet">{{ durationWords(b.minutes) }} · {{ b.place }}</span>
    </div>
  </section>
  <section v-if="details.parts.length > 0" aria-label="Sub-tasks">
    <h3>Sub-tasks</h3>
    <div v-for="p in details.parts" :key="p.key" class="part">
      <TaskTick :done="p.done" :title="p.title" :disabled="!p.completable" @toggle="check(p)" />
      <button type="button" class="plain link" @click="emit('go', p.key)">{{ p.title }}</button>
    </div>
  </section>
</template>

<style scoped>
h3 {
  margin: 16px 0 6px;
}
.part {
  display: flex;
  align-items: center;
  gap: 8px;
  padding: 4px 0;
  border-top: 1px solid var(--warp);
}
.part .link {
  flex: 1;
  text-align: left;
}
.past {
  color: var(--husk);
}
.link {
  color: var(--amber);
  text-decoration: underline;
}
</style>
