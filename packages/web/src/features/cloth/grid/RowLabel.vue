<script setup lang="ts">
import { minuteWords } from '../../../ui/telling.ts'
import { dayWords, freeNext, type HourRow, mondayOf } from '@loom/core/view'
import { computed } from 'vue'
import LoadThreads from './LoadThreads.vue'

/** What a row is, what is due on its day, and how full that is. */
const props = defineProps<{
  row: HourRow
  /** In full. */
  name: string
  /** Its title is shown, where rows are not days. */
  named: boolean
  /** The viewer's own, among those of several people. */
  own: boolean
  /** Minute of the day, if the present moment is in this row and it is somebody's. */
  now: number | null
}>()
const emit = defineEmits<{ load: [at: DOMRect] }>()
const dueTitles = computed(() => `Due on this day:\n${props.row.dues.map(i => i.title).join('\n')}`)
/** Whether somebody is free, or from when: what one looks for among colleagues. */
const free = computed(() => {
  if (props.now === null) return ''
  const next = freeNext(props.row, props.now)
  if (!next) return ''
  return next.from <= props.now
    ? `free now, until ${minuteWords(next.to)}`
    : `free from ${minuteWords(next.from)}`
})
function openLoad(event: Event): void {
  emit('load', (event.currentTarget as HTMLElement).getBoundingClientRect())
}
</script>

<template>
  <div
    class="label"
    :class="{ today: row.today && (own || !named), idle: !row.working, named }"
    role="rowheader"
    data-drop="week"
    :data-date="mondayOf(row.date)"
  >
    <h2 :title="name">
      {{ named ? row.title : dayWords(row.date).replace(/ \w+$/, '')
      }}<span v-if="own" class="quiet"> you</span>
    </h2>
    <span v-if="row.dues.length > 0" class="dues" :title="dueTitles">{{ row.dues.length }} due</span>
    <span v-if="free" class="free">{{ free }}</span>
    <button type="button" class="plain load" @click="openLoad">
      <span class="visually-hidden">Load of {{ name }}: </span><LoadThreads :load="row.load" />
    </button>
  </div>
</template>

<style scoped>
.label {
  position: relative;
  padding: 5px 10px 4px;
  border-right: 1px solid var(--warp);
  overflow: hidden;
}
h2 {
  font-size: 15px;
  white-space: nowrap;
  overflow: hidden;
  text-overflow: ellipsis;
}
/* What is due on the day, beside its name: a deadline is not a plan. */
.dues {
  position: absolute;
  right: 6px;
  top: 7px;
  font-size: 12px;
  color: var(--husk);
  border-bottom: 2px solid var(--clay);
  line-height: 1.2;
}
.named h2 {
  font-size: 13px;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.named:has(.dues) h2 {
  padding-right: 36px;
}
.label:has(.free) {
  padding-top: 2px;
  padding-bottom: 2px;
  line-height: 1.15;
}
.free {
  display: block;
  font-size: 11.5px;
  color: var(--moss);
  white-space: nowrap;
}
.load {
  display: block;
  text-align: left;
  width: 100%;
}
.today {
  box-shadow: inset 3px 0 0 var(--amber);
}
.idle {
  background: var(--idle);
}
@media (max-width: 720px) {
  .label {
    padding: 5px 4px 4px 7px;
  }
  h2 {
    font-size: 14px;
  }
  .dues {
    right: 4px;
  }
}
</style>
