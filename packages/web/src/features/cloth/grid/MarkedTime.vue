<script setup lang="ts">
import { durationWords } from '@loom/core/view'
import { Checkbox, Input } from 'ant-design-vue'
import { ref } from 'vue'
import type { Marked, Written } from '../data/adding-time.ts'
import ChooseDay from '../../../ui/ChooseDay.vue'

/** The time that was marked out, in words, and to be changed by typing. */
defineProps<{ words: string; marked: Marked | null }>()
const written = defineModel<Written>({ required: true })
const changing = ref(false)
</script>

<template>
  <h2>
    {{ words
    }}<span v-if="marked && !written.allDay" class="quiet"> · {{ durationWords(marked.minutes) }}</span>
    <button v-if="!changing" type="button" class="plain other" @click="changing = true">another time</button>
  </h2>
  <div v-if="changing" class="when">
    <ChooseDay v-model="written.date" name="Day" />
    <template v-if="written.allDay">
      to <ChooseDay v-model="written.last" name="To day" :min="written.date" />
    </template>
    <template v-else>
      <Input v-model:value="written.from" class="hour" aria-label="From" :maxlength="8" /> to
      <Input v-model:value="written.to" class="hour" aria-label="To" :maxlength="8" />
    </template>
    <Checkbox v-model:checked="written.allDay">all day</Checkbox>
  </div>
</template>

<style scoped>
h2 .quiet {
  font-weight: 400;
}
.other {
  font: inherit;
  font-size: 12.5px;
  font-weight: 400;
  color: var(--amber);
  text-decoration: underline;
  margin-left: 8px;
}
.when {
  display: flex;
  align-items: center;
  flex-wrap: wrap;
  gap: 6px;
}
.hour {
  width: 66px;
}
</style>
