<script setup lang="ts">
import type { Reminders } from '@loom/core/view'
import { computed } from 'vue'
import { usePlanning } from '../../stores/planning.ts'
import { leadChoices, NEVER } from '../../ui/lead-words.ts'
import SentenceChoice from '../../ui/SentenceChoice.vue'
import { minuteWords } from '../../ui/telling.ts'
import ReminderDevices from './ReminderDevices.vue'

/** What a person wants to be reminded of, when they want to be left alone, and where it reaches them. */
const { planning, isThere, changeOrSay } = usePlanning()
const reminders = computed(() => planning.value.reminders)
const set = (patch: Partial<Reminders>): void =>
  void changeOrSay({ reminders: { ...reminders.value, ...patch } })

const LEADS = [
  { key: 'event', says: 'Events', name: 'Remind me before events', zero: 'when they begin' },
  {
    key: 'block',
    says: 'My planned work',
    name: 'Remind me before planned work',
    zero: 'when it begins',
  },
  {
    key: 'due',
    says: 'What of mine is due',
    name: 'Remind me before deadlines',
    zero: 'when it is due',
  },
  {
    key: 'window',
    says: 'Work windows',
    name: 'Remind me before work windows',
    zero: 'when it begins',
  },
] as const
const orNull = (m: number): number | null => (m === NEVER ? null : m)

const HALF_HOURS = Array.from({ length: 48 }, (_, n) => 30 * n)
const hours = (now: number | null) =>
  [...new Set([...HALF_HOURS, ...(now === null ? [] : [now])])]
    .sort((x, y) => x - y)
    .map(value => ({ value, label: minuteWords(value) }))
const orNever = (now: number | null) => [
  { value: NEVER, label: 'never' },
  ...hours(now).map(h => ({ ...h, label: `at ${h.label}` })),
]
const QUIET = { from: 21 * 60, to: 7 * 60 }
const quiet = computed(() => reminders.value.quiet ?? QUIET)
</script>

<template>
  <main class="page">
    <div class="page-head">
      <h1>Reminders</h1>
      <span class="quiet">They follow what moves: nothing comes for an old time, and nothing twice.</span>
    </div>
    <div v-if="isThere" class="two">
      <section class="sheet part" aria-labelledby="of-what">
        <h2 id="of-what">What I am reminded of</h2>
        <p v-for="l in LEADS" :key="l.key" class="line">
          {{ l.says }}:
          <SentenceChoice
            :name="l.name"
            :options="leadChoices(reminders[l.key], l.zero)"
            :model-value="reminders[l.key] ?? NEVER"
            @update:model-value="m => set({ [l.key]: orNull(m) })"
          />
        </p>
        <p class="line">
          <label>
            <input
              type="checkbox"
              :checked="reminders.alarms"
              @change="e => set({ alarms: (e.target as HTMLInputElement).checked })"
            />
            Where an event of mine has alarms in its calendar, these instead
          </label>
        </p>
        <p class="line">
          To plan the day:
          <SentenceChoice
            name="Remind me to plan the day"
            :options="orNever(reminders.plan)"
            :model-value="reminders.plan ?? NEVER"
            @update:model-value="m => set({ plan: orNull(m) })"
          />, to look back on it:
          <SentenceChoice
            name="Remind me to look back"
            :options="orNever(reminders.review)"
            :model-value="reminders.review ?? NEVER"
            @update:model-value="m => set({ review: orNull(m) })"
          />
        </p>
        <p class="quiet">
          A deadline without an hour counts from where your working day begins. A single task or event can
          have its own reminder: open it on the Cloth.
        </p>
        <h2>When I want to be left alone</h2>
        <p class="line">
          <label>
            <input
              type="checkbox"
              :checked="reminders.quiet !== null"
              @change="e => set({ quiet: (e.target as HTMLInputElement).checked ? QUIET : null })"
            />
            Quiet hours
          </label>
          <template v-if="reminders.quiet">
            from
            <SentenceChoice
              name="Quiet from"
              :options="hours(quiet.from)"
              :model-value="quiet.from"
              @update:model-value="from => set({ quiet: { ...quiet, from } })"
            />
            to
            <SentenceChoice
              name="Quiet until"
              :options="hours(quiet.to)"
              :model-value="quiet.to"
              @update:model-value="to => set({ quiet: { ...quiet, to } })"
            />
          </template>
        </p>
        <p class="quiet">
          What is still ahead when they end comes then. In focus only events come through; what is about the
          day waits for the end of a meeting.
        </p>
      </section>
      <ReminderDevices :by-mail="reminders.mail" @mail="mail => set({ mail })" />
    </div>
  </main>
</template>

<style scoped>
.two {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(min(360px, 100%), 1fr));
  gap: 14px;
  align-items: start;
}
.part {
  padding: 14px 18px;
}
.part h2 {
  font-size: 16px;
  margin: 0 0 8px;
}
.part .quiet + h2 {
  margin-top: 20px;
}
.line {
  margin: 0 0 9px;
  line-height: 1.7;
}
.quiet {
  font-size: 13px;
}
</style>
