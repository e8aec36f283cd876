<script setup lang="ts">
import { PhX } from '@phosphor-icons/vue'
import { clauseWords, type Filter } from '@loom/core/view'

/** The clauses of a filter as parts of a sentence, each removable; buttons to add more follow. */
defineProps<{ nameOf?: (id: string) => string }>()
const filter = defineModel<Filter>({ required: true })
const remove = (i: number): void => void (filter.value = filter.value.filter((_, k) => k !== i))
</script>

<template>
  <span class="filter">
    <span v-for="(c, i) in filter" :key="i" class="clause"
      >{{ clauseWords(c, nameOf)
      }}<button
        type="button"
        class="plain"
        :aria-label="`No longer: ${clauseWords(c, nameOf)}`"
        @click="remove(i)"
      >
        <PhX :size="11" /></button
    ></span>
    <slot />
  </span>
</template>

<style scoped>
.filter {
  display: inline-flex;
  flex-wrap: wrap;
  gap: 4px 6px;
  align-items: baseline;
}
.clause {
  display: inline-flex;
  align-items: center;
  gap: 5px;
  padding: 0 6px;
  border-radius: 2px;
  background: var(--amber-wash);
}
.clause button {
  display: grid;
  place-items: center;
  width: 18px;
  height: 18px;
}
</style>
