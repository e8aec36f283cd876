<script setup lang="ts">
import type { Travel } from '@loom/core/view'
import { computed, ref } from 'vue'

/** How far the places of appointments are, from one's base and from one another. */
const props = defineProps<{
  travel: Travel
  showsWays: boolean
  locations: readonly string[]
  busy: boolean
}>()
const emit = defineEmits<{ save: [travel: Travel, showsWays: boolean]; close: [] }>()
const shows = ref(props.showsWays)

const places = ref(props.travel.places.map(p => ({ ...p })))
const between = ref(props.travel.between.map(b => ({ ...b })))
const tried = ref(false)
const named = computed(() => places.value.map(p => p.name.trim()).filter(Boolean))
const unnamed = computed(() =>
  props.locations.filter(l => !named.value.some(n => l.toLowerCase().includes(n.toLowerCase()))),
)
const isLength = (n: number): boolean => Number.isInteger(n) && n >= 1 && n <= 600
const trouble = computed(() => {
  if (places.value.some(p => !p.name.trim())) return 'Name each place as appointments do.'
  const names = named.value.map(n => n.toLowerCase())
  if (new Set(names).size < names.length) return 'Two places have the same name.'
  if ([...places.value, ...between.value].some(p => !isLength(p.minutes))) return 'A way takes 1 to 600 min.'
  if (between.value.some(b => b.one === b.other)) return 'A straight way leads from one place to another.'
  return ''
})
function save(): void {
  tried.value = true
  if (trouble.value) return
  const kept = places.value.map(p => ({ name: p.name.trim(), minutes: p.minutes }))
  const there = new Set(kept.map(p => p.name))
  // A way from or to what is no place any more is none.
  const straight = between.value.filter(b => there.has(b.one) && there.has(b.other))
  emit('save', { places: kept, between: straight }, shows.value)
}
</script>

<template>
  <form class="form" @submit.prevent="save">
    <h3>Travel</h3>
    <p class="quiet">
      Minutes from your base to each place. An appointment is there where its place has these words.
    </p>
    <p v-for="(p, at) in places" :key="at" class="line">
      <input
        v-model="p.name"
        class="native"
        list="travel-places"
        maxlength="200"
        :aria-label="`Place ${at + 1}`"
        autocomplete="off"
      />
      <input
        v-model.number="p.minutes"
        class="native few"
        type="number"
        min="1"
        max="600"
        step="1"
        :aria-label="`Minutes to place ${at + 1}`"
      />
      min
      <button type="button" class="plain link" @click="places.splice(at, 1)">Remove</button>
    </p>
    <datalist id="travel-places">
      <option v-for="l in unnamed" :key="l" :value="l" />
    </datalist>
    <button type="button" class="push small" @click="places.push({ name: unnamed[0] ?? '', minutes: 15 })">
      Add a place
    </button>
    <template v-if="named.length > 1">
      <p class="quiet">Straight ways between two of them, where these are shorter.</p>
      <p v-for="(b, at) in between" :key="at" class="line">
        <select v-model="b.one" class="native" aria-label="From">
          <option v-for="n in named" :key="n">{{ n }}</option>
        </select>
        <select v-model="b.other" class="native" aria-label="To">
          <option v-for="n in named" :key="n">{{ n }}</option>
        </select>
        <input
          v-model.number="b.minutes"
          class="native few"
          type="number"
          min="1"
          max="600"
          step="1"
          aria-label="Minutes of this way"
        />
        min
        <button type="button" class="plain link" @click="between.splice(at, 1)">Remove</button>
      </p>
      <button
        type="button"
        class="push small"
        @click="between.push({ one: named[0] ?? '', other: named[1] ?? '', minutes: 10 })"
      >
        Add a straight way
      </button>
    </template>
    <label class="check">
      <input v-model="shows" type="checkbox" />
      <span>Colleagues who see where an appointment is see my way there; it counts in my load for them</span>
    </label>
    <p v-if="tried && trouble" class="wrong" role="alert">{{ trouble }}</p>
    <div class="line">
      <button type="submit" class="push primary" :disabled="busy">Save</button>
      <button type="button" class="push" @click="emit('close')">Cancel</button>
    </div>
  </form>
</template>

<style scoped>
.form {
  display: grid;
  gap: 8px;
  justify-items: start;
}
p {
  margin: 0;
}
.line {
  justify-self: stretch;
  display: flex;
  gap: 6px;
  align-items: center;
}
.line > :first-child:not(button),
.line > select {
  flex: 1;
  width: 0;
  min-width: 0;
}
.check {
  display: flex;
  gap: 8px;
  align-items: baseline;
}
.few {
  width: 64px;
}
.link {
  color: var(--amber);
  text-decoration: underline;
}
.wrong {
  color: var(--clay);
}
</style>
