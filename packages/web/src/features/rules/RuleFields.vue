<script setup lang="ts">
import { PhArrowLeft, PhArrowRight, PhArrowsLeftRight, PhDotsThree, PhProhibit } from '@phosphor-icons/vue'
import {
  type Direction,
  DIRECTION_WORDS,
  durationWords,
  type Field,
  FIELD_WORDS,
  type RuleSettings,
} from '@loom/core/view'
import { Dropdown, Input, Menu, MenuItem } from 'ant-design-vue'
import type { Component } from 'vue'
import SentenceChoice from '../../ui/SentenceChoice.vue'

/** One line for each field: what it is here, which way it goes, what it is there. */
defineProps<{ fields: Field[]; kinds: { a: 'task' | 'event'; b: 'task' | 'event' } }>()
const settings = defineModel<RuleSettings>({ required: true })

const WAYS: { value: Direction; icon: Component }[] = [
  { value: 'both', icon: PhArrowsLeftRight },
  { value: 'a-to-b', icon: PhArrowRight },
  { value: 'b-to-a', icon: PhArrowLeft },
  { value: 'once', icon: PhDotsThree },
  { value: 'off', icon: PhProhibit },
]
const iconOf = (d: Direction): Component => WAYS.find(w => w.value === d)?.icon ?? PhProhibit

const LENGTHS = [15, 30, 45, 60, 90, 120, 180, 240, 480].map(value => ({
  value,
  label: durationWords(value),
}))
const DATES = [
  { value: 'start' as const, label: 'the planned date' },
  { value: 'due' as const, label: 'the deadline' },
]
const DUE_IS = [
  { value: 'end' as const, label: 'ends' },
  { value: 'start' as const, label: 'starts' },
]
const NO_HOUR = [
  { value: 'none' as const, label: 'no event; it is listed at the head of its day' },
  { value: 'all-day' as const, label: 'an all-day event, shown free' },
  { value: 'hour' as const, label: 'an event at a set hour' },
]
const HOURS = Array.from({ length: 15 }, (_, i) => `${String(i + 6).padStart(2, '0')}:00`).map(value => ({
  value,
  label: value,
}))
const COMPLETED = [
  { value: 'mark' as const, label: 'stays, marked and shown free' },
  { value: 'keep' as const, label: 'stays as it is' },
  { value: 'end' as const, label: 'ends at that moment' },
  { value: 'remove' as const, label: 'is removed, and comes back if reopened' },
]
const MARKS = ['✓', '●', 'done:'].map(value => ({ value, label: value }))
const PLAIN: Partial<Record<Field, [string, string]>> = {
  notes: ['details', 'description'],
  due: ['deadline', 'deadline'],
  categories: ['labels', 'categories'],
  location: ['place', 'place'],
  people: ['who does it', 'the same members there'],
  link: ['its page', 'link to it'],
}
</script>

<template>
  <template v-for="f in fields" :key="f">
    <div class="cell">
      <b>{{ FIELD_WORDS[f] }}</b>
      <span v-if="f === 'title'">text</span>
      <SentenceChoice
        v-else-if="f === 'time' && kinds.a === 'task'"
        v-model="settings.date"
        :options="DATES"
        name="Which date"
      />
      <span v-else-if="f === 'time'">start and length</span>
      <span v-else-if="f === 'completion'">{{ kinds.a === 'task' ? 'done or cancelled' : 'cancelled' }}</span>
      <span v-else-if="f === 'priority'">0–9</span>
      <span v-else>{{ PLAIN[f]?.[0] }}</span>
    </div>
    <div class="mid">
      <Dropdown :trigger="['click']">
        <button
          type="button"
          class="plain way"
          :class="settings.fields[f]"
          :aria-label="`${FIELD_WORDS[f]}: ${DIRECTION_WORDS[settings.fields[f]]}`"
        >
          <component :is="iconOf(settings.fields[f])" :size="17" />
        </button>
        <template #overlay>
          <Menu :selected-keys="[settings.fields[f]]">
            <MenuItem v-for="w in WAYS" :key="w.value" @click="settings.fields[f] = w.value">
              <span class="entry"><component :is="w.icon" :size="15" /> {{ DIRECTION_WORDS[w.value] }}</span>
            </MenuItem>
          </Menu>
        </template>
      </Dropdown>
    </div>
    <div class="cell there" :class="{ off: settings.fields[f] === 'off' }">
      <label v-if="f === 'title'" class="template">
        <span class="visually-hidden">Title there</span>
        <Input v-model:value="settings.title" size="small" :maxlength="200" />
        <span v-if="!settings.title.includes('{title}')" class="quiet">the same for all</span>
      </label>
      <span v-else-if="f === 'time' && kinds.a === 'task' && kinds.b === 'event'" class="words">
        <template v-if="settings.date === 'due'"
          >where the event
          <SentenceChoice
            v-model="settings.dueIs"
            :options="DUE_IS"
            name="Where a deadline with an hour lies"
          />; </template
        >length: the estimate, else
        <SentenceChoice
          v-model="settings.defaultMinutes"
          :options="LENGTHS"
          name="Length without an estimate"
        />; without an hour,
        <SentenceChoice v-model="settings.noHour" :options="NO_HOUR" name="A date without an hour" /><template
          v-if="settings.noHour === 'hour'"
          >, <SentenceChoice v-model="settings.hour" :options="HOURS" name="The set hour"
        /></template>
      </span>
      <span v-else-if="f === 'time'">the same</span>
      <span v-else-if="f === 'completion' && kinds.a === 'task' && kinds.b === 'event'" class="words">
        the event
        <SentenceChoice v-model="settings.completed" :options="COMPLETED" name="When a task is completed" />;
        its mark is
        <SentenceChoice v-model="settings.mark" :options="MARKS" name="Mark of a done task" />
      </span>
      <span v-else-if="f === 'completion'">the same</span>
      <span v-else-if="f === 'priority'">{{
        settings.priorities.length > 0 ? 'by the table below' : 'the same number'
      }}</span>
      <span v-else>{{ PLAIN[f]?.[1] }}</span>
    </div>
  </template>
</template>

<style scoped>
.cell,
.mid {
  padding: 7px 14px;
  min-height: 24px;
  display: flex;
  align-items: center;
  gap: 10px;
  border-top: 1px solid var(--warp);
}
.cell > b::first-letter {
  text-transform: uppercase;
}
.cell > b {
  display: block;
  font-weight: 400;
  color: var(--husk);
  width: 84px;
  flex: none;
}
.words {
  line-height: 1.7;
}
.off > :not(b) {
  color: var(--husk);
}
.mid {
  justify-content: center;
  background: color-mix(in srgb, var(--amber-wash) 40%, var(--cloth));
  border-inline: 1px solid var(--warp);
}
.way {
  display: grid;
  place-items: center;
  width: 34px;
  height: 26px;
  border: 1px solid transparent;
  border-radius: 3px;
}
.way:hover {
  border-color: var(--amber);
}
.way.off {
  color: var(--husk);
}
.entry {
  display: inline-flex;
  align-items: center;
  gap: 8px;
}
.template {
  display: flex;
  align-items: center;
  gap: 8px;
  width: 100%;
}
@media (max-width: 560px) {
  .cell,
  .mid {
    padding: 7px 6px;
  }
  .cell {
    flex-wrap: wrap;
    overflow-wrap: anywhere;
  }
}
</style>
