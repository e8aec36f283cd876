<script setup lang="ts">
import type { NotPlacedOf, TeamTold } from '@loom/core/planning'
import { durationWords } from '@loom/core/view'
import DraftRemedies from './DraftRemedies.vue'
import { leftWords, type ReasonTerms, spanInWords, whyNotWords } from './reason-words.ts'
import type { DraftState } from './use-draft.ts'
import type { Drafting } from './use-drafting.ts'

/** What has no time by a draft, and why: no room, nothing to place, asked for, left out. */
defineProps<{
  told: TeamTold
  /** A regular once, however often it has no place. */
  notPlaced: readonly (NotPlacedOf & { times: number })[]
  drafting: Drafting
  draft: DraftState
  zone: string
  /** Before the reason, whose it is, where it is for several. */
  who: (of: NotPlacedOf) => string
  termsFor: (person: string) => ReasonTerms
  nobody: ReasonTerms
}>()
const emit = defineEmits<{ open: [key: string] }>()
</script>

<template>
  <template v-if="told.notPlaced.length > 0">
    <h3 class="not">{{ notPlaced.length }} not placed</h3>
    <div v-for="n in notPlaced" :key="n.id" class="entry">
      <button
        v-if="n.regular === null"
        type="button"
        class="plain title"
        title="Open everything about it"
        @click="emit('open', n.id)"
      >
        {{ drafting.titleOf(n.id) }}
      </button>
      <span v-else class="title">{{ drafting.titleOf(n.id) }}</span>
      <span class="quiet when"
        >{{ n.times > 1 ? `${n.times} times ` : '' }}{{ durationWords(n.minutes) }}</span
      >
      <span class="quiet why">{{ who(n) }}{{ whyNotWords(n.why, n.regular, termsFor(n.person)) }}</span>
      <DraftRemedies
        v-if="n.regular === null && n.why.kind !== 'waits'"
        :id="n.id"
        :person="n.person"
        :title="drafting.titleOf(n.id)"
        :told="told"
        :zone="zone"
        :title-of="drafting.titleOf"
        :find="drafting.remedies"
        @take="remedy => draft.take(n.person, n.id, remedy)"
      />
    </div>
  </template>
  <template v-if="told.left.some(l => l.because !== 'is reserved already')">
    <h3>Not to be placed</h3>
    <div v-for="l in told.left.filter(x => x.because !== 'is reserved already')" :key="l.id" class="entry">
      <span class="title">{{ drafting.titleOf(l.id) }}</span>
      <span class="quiet why">{{ leftWords(l, nobody) }}</span>
    </div>
  </template>
  <template v-if="drafting.waiting.value.length > 0">
    <h3>Asked for, not answered yet</h3>
    <div v-for="(a, i) in drafting.waiting.value" :key="i" class="entry">
      <span class="title">{{ a.title ?? 'Something that you no longer see' }}</span>
      <span class="quiet when">{{ spanInWords(a, zone) }}</span>
    </div>
  </template>
  <template v-if="draft.leftOut.value.length > 0">
    <h3>Left out of this draft</h3>
    <div v-for="(o, i) in draft.leftOut.value" :key="i" class="entry">
      <span class="title">{{ o.title }}</span>
      <button
        type="button"
        class="push small"
        :aria-label="`Take ${o.title} in again`"
        @click="draft.takeIn(o)"
      >
        Take in again
      </button>
    </div>
  </template>
</template>

<style scoped>
h3.not {
  background: color-mix(in srgb, var(--clay) 14%, var(--cloth));
}
.entry {
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto;
  gap: 1px 10px;
  padding: 7px 14px;
  border-top: 1px solid var(--warp);
  align-items: start;
}
.entry .title {
  text-align: left;
  min-width: 0;
  overflow-wrap: anywhere;
}
.why {
  grid-column: 1;
  font-size: 12.5px;
}
</style>
