<script setup lang="ts">
import type { ClothItem } from '@loom/core/view'
import { computed, ref } from 'vue'
import FoldOut from '../../ui/FoldOut.vue'
import type { Source } from './data/signs.ts'

/** Calendars and lists by connection: shown or hidden, with the name and the dye one sees them by. */
const props = defineProps<{
  sources: readonly Source[]
  hidden: readonly string[]
  items: readonly ClothItem[]
  looks: Readonly<Record<string, { name?: string | undefined; dye?: string | undefined }>>
}>()
const emit = defineEmits<{
  hide: [ids: string[]]
  look: [id: string, look: { name?: string; dye?: string }]
}>()

const counts = computed(() => {
  const found = new Map<string, number>()
  for (const i of props.items) for (const s of i.sources) found.set(s, (found.get(s) ?? 0) + 1)
  return found
})
const byConnection = computed(() => {
  const groups = new Map<string, { name: string; owner: string | null; sources: Source[] }>()
  for (const s of props.sources) {
    const group = groups.get(s.connection) ?? { name: s.service, owner: s.owner, sources: [] }
    group.sources.push(s)
    groups.set(s.connection, group)
  }
  return [...groups.entries()].map(([id, g]) => ({ id, ...g }))
})
const shownCount = computed(() => props.sources.filter(s => !props.hidden.includes(s.id)).length)
const isShown = (id: string): boolean => !props.hidden.includes(id)

/** With Alt, only this one; again with Alt, all. */
function toggle(id: string, event: MouseEvent | KeyboardEvent): void {
  const others = props.sources.map(s => s.id).filter(s => s !== id)
  if (event.altKey) {
    const alone = isShown(id) && others.every(o => props.hidden.includes(o))
    emit('hide', alone ? [] : others)
  } else emit('hide', isShown(id) ? [...props.hidden, id] : props.hidden.filter(h => h !== id))
}
function toggleAll(group: { sources: Source[] }): void {
  const ids = group.sources.map(s => s.id)
  const anyShown = ids.some(isShown)
  const rest = props.hidden.filter(h => !ids.includes(h))
  emit('hide', anyShown ? [...rest, ...ids] : rest)
}
const editing = ref<string | null>(null)
const name = ref('')
function edit(s: Source): void {
  editing.value = editing.value === s.id ? null : s.id
  name.value = props.looks[s.id]?.name ?? ''
}
</script>

<template>
  <FoldOut
    large
    name="Sources"
    :label="
      shownCount === sources.length
        ? `all ${sources.length} sources`
        : `${shownCount} of ${sources.length} sources`
    "
  >
    <div class="panel">
      <div class="row">
        <span class="quiet">With Alt: only that one.</span>
        <button type="button" class="push small" :disabled="hidden.length === 0" @click="emit('hide', [])">
          Show all
        </button>
      </div>
      <div class="all">
        <section v-for="g in byConnection" :key="g.id" :aria-label="g.name">
          <button type="button" class="plain head" @click="toggleAll(g)">
            {{ g.name }}<span v-if="g.owner" class="quiet"> of {{ g.owner }}</span>
          </button>
          <div v-for="s in g.sources" :key="s.id" class="source">
            <label>
              <input
                type="checkbox"
                :checked="isShown(s.id)"
                :aria-label="`Show ${s.name}`"
                @click.prevent="toggle(s.id, $event)"
              />
              <span class="dye" :class="s.itemKind" :style="{ background: s.dye }" />{{ s.name }}
            </label>
            <span class="quiet">{{ counts.get(s.id) ?? 0 }}</span>
            <button type="button" class="plain change" @click="edit(s)">
              change<span class="visually-hidden"> name and colour of {{ s.name }}</span>
            </button>
            <div v-if="editing === s.id" class="looks">
              <input
                v-model="name"
                class="native"
                :aria-label="`My name for ${s.name}`"
                :placeholder="s.name"
                maxlength="100"
                @keydown.enter="emit('look', s.id, { ...looks[s.id], name: name.trim() })"
                @blur="emit('look', s.id, { ...looks[s.id], name: name.trim() })"
              />
              <input
                type="color"
                :value="s.dye"
                :aria-label="`My colour for ${s.name}`"
                @change="
                  e => emit('look', s.id, { ...looks[s.id], dye: (e.target as HTMLInputElement).value })
                "
              />
            </div>
          </div>
        </section>
      </div>
      <RouterLink to="/connections">Choose what takes part</RouterLink>
    </div>
  </FoldOut>
</template>

<style scoped>
.panel {
  display: grid;
  gap: 8px;
}
/* All of them at once, where there is room. */
.all {
  columns: 3 300px;
  column-gap: 28px;
  width: min(1040px, 86vw);
}
section {
  break-inside: avoid;
  padding-bottom: 8px;
}
.row,
.source {
  display: flex;
  align-items: center;
  gap: 8px;
  flex-wrap: wrap;
}
.row {
  justify-content: space-between;
}
.source label {
  flex: 1;
  display: flex;
  align-items: center;
  gap: 7px;
  cursor: pointer;
}
.head {
  font-weight: 700;
}
.dye {
  height: 14px;
}
.dye.task {
  border-radius: 50%;
  height: 10px;
}
.change {
  font-size: 12px;
  color: var(--amber);
}
.looks {
  flex-basis: 100%;
  display: flex;
  gap: 6px;
}
</style>
