<script setup lang="ts">
import { ref } from 'vue'

/** A chart, or the same as a table: every figure can be had as a number, and by keyboard. */
defineProps<{
  title: string
  /** What is measured, in what. */
  what: string
  /** There is nothing to draw: says so. */
  empty?: string
  /** Chart and table are shown together. */
  both?: boolean
}>()
const asTable = ref(false)
</script>

<template>
  <section class="sheet frame" :aria-label="title">
    <header>
      <h2>{{ title }}</h2>
      <span class="quiet">{{ what }}</span>
      <span class="spacer" />
      <button
        v-if="!empty && !both"
        type="button"
        class="plain link"
        :aria-pressed="asTable"
        @click="asTable = !asTable"
      >
        {{ asTable ? 'Chart' : 'Table' }}
      </button>
    </header>
    <p v-if="empty" class="quiet">{{ empty }}</p>
    <template v-else>
      <slot v-if="both || !asTable" name="chart" />
      <div v-if="both || asTable" class="scroll"><slot name="table" /></div>
    </template>
  </section>
</template>

<style scoped>
.frame {
  padding: 10px 12px 12px;
  min-width: 0;
}
header {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 10px;
  align-items: baseline;
  margin-bottom: 6px;
}
header .quiet {
  font-size: 13px;
}
.spacer {
  flex: 1;
}
.link {
  color: var(--amber);
  text-decoration: underline;
  font-size: 13px;
}
p {
  margin: 18px 0;
}
.scroll {
  overflow: auto;
  max-height: 300px;
}
.scroll :deep(table) {
  border-collapse: collapse;
  width: 100%;
  font-size: 13px;
}
.scroll :deep(th),
.scroll :deep(td) {
  padding: 3px 10px 3px 0;
  text-align: right;
  white-space: nowrap;
  border-bottom: 1px solid var(--warp);
  font-weight: 400;
}
.scroll :deep(thead th) {
  font-weight: 700;
  position: sticky;
  top: 0;
  background: var(--cloth);
}
.scroll :deep(th:first-child),
.scroll :deep(td:first-child) {
  text-align: left;
}
</style>
