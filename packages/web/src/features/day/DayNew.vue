<script setup lang="ts">
import { dayWords } from '@loom/core/view'
import { computed, ref } from 'vue'
import { type NewItem, useNewItems } from '../../stores/new-items.ts'
import { momentWords } from '../../ui/kept-up-words.ts'

/** What came since this page was looked at last, until it is said to be seen. */
const props = defineProps<{ zone: string }>()
const emit = defineEmits<{ open: [key: string] }>()

const SOME = 8
const { items, more, saw } = useNewItems()
const isWhole = ref(false)
const shown = computed(() => (isWhole.value ? items.value : items.value.slice(0, SOME)))
function facts({ kind, place, due, atMs }: NewItem): string {
  const when =
    place.kind === 'timed'
      ? momentWords(place.startMs, props.zone)
      : place.kind === 'day'
        ? dayWords(place.date)
        : due !== null
          ? `due ${dayWords(due)}`
          : 'no date'
  return [kind === 'task' ? 'task' : 'appointment', when, `came ${momentWords(atMs, props.zone)}`].join(' · ')
}
</script>

<template>
  <section v-if="items.length > 0" class="sheet card" aria-labelledby="new-since">
    <div class="top">
      <h2 id="new-since">New since you last looked</h2>
      <button type="button" class="push small" title="They are not told of again" @click="saw">Seen</button>
    </div>
    <p v-for="i in shown" :key="i.key">
      <button type="button" class="plain title" @click="emit('open', i.key)">{{ i.title }}</button>
      <span class="quiet facts">{{ facts(i) }}</span>
    </p>
    <p v-if="!isWhole && items.length > SOME">
      <button type="button" class="plain link" @click="isWhole = true">
        {{ items.length - SOME + more }} more
      </button>
    </p>
    <p v-else-if="more > 0" class="quiet">And {{ more }} more.</p>
  </section>
</template>

<style scoped>
.card {
  padding: 0 0 6px;
}
p {
  margin: 0;
  padding: 4px 12px;
  border-top: 1px solid var(--warp);
}
.top {
  display: flex;
  justify-content: space-between;
  align-items: baseline;
  gap: 8px;
  padding: 10px 12px 4px;
}
h2 {
  margin: 0;
}
.title {
  text-align: left;
  overflow-wrap: anywhere;
}
.title:hover {
  text-decoration: underline;
}
.facts {
  display: block;
  font-size: 12.5px;
}
.link {
  color: var(--amber);
  text-decoration: underline;
}
</style>
