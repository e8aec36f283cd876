<script setup lang="ts">
import { PhCalendarBlank, PhListChecks } from '@phosphor-icons/vue'
import { Switch } from 'ant-design-vue'
import { computed } from 'vue'
import { agoWords, type Collection } from '../../stores/connections.ts'

/** One list or calendar of a connection: whether it takes part, what is in it, how it fares. */
const props = defineProps<{
  collection: Collection
  now: number
  fixed: boolean
  /** It is somebody else's, who shares it. */
  shared?: boolean
  within?: string | undefined
}>()
const emit = defineEmits<{ set: [takesPart: boolean] }>()

const facts = computed(() => {
  const k = props.collection
  const what = (n: number): string =>
    k.itemKind === 'task' ? (n === 1 ? '1 task' : `${n} tasks`) : n === 1 ? '1 event' : `${n} events`
  if (props.shared) return k.writable ? 'shared with you, to change' : 'shared with you, to look at'
  if (!k.takesPart) return 'not synced'
  if (k.syncedAt === null)
    return k.importTotal === null ? `${k.importDone} so far` : `${k.importDone} of ${k.importTotal}`
  return [what(k.items), k.outside > 0 ? `${k.outside} left out` : '', k.writable ? '' : 'read only']
    .filter(Boolean)
    .join(', ')
})
const share = computed(() => {
  const { syncedAt, importDone, importTotal, takesPart } = props.collection
  return takesPart && syncedAt === null && importTotal
    ? Math.min(100, (100 * importDone) / importTotal)
    : null
})
const read = computed(() =>
  props.collection.takesPart && props.collection.syncedAt !== null
    ? `read ${agoWords(props.collection.syncedAt, props.now)}`
    : '',
)
</script>

<template>
  <li :class="{ out: !collection.takesPart }">
    <Switch
      v-if="!fixed"
      size="small"
      :checked="collection.takesPart"
      :disabled="collection.whyNot !== null"
      :aria-label="`${collection.name} takes part`"
      @change="on => emit('set', on === true)"
    />
    <span class="dye" :style="{ background: collection.dye }" />
    <component
      :is="collection.itemKind === 'task' ? PhListChecks : PhCalendarBlank"
      :size="16"
      aria-hidden="true"
    />
    <span class="name"
      >{{ collection.name }}<span v-if="within" class="quiet">{{ ` in ${within}` }}</span></span
    >
    <span class="quiet facts" :title="read">{{ collection.whyNot ?? facts }}</span>
    <span v-if="share !== null" class="bar" aria-hidden="true"><span :style="{ width: `${share}%` }" /></span>
    <span v-if="collection.trouble" class="why">{{ collection.trouble }}</span>
  </li>
</template>

<style scoped>
li {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 2px 9px;
  padding: 4px 0;
  min-width: 0;
}
.dye {
  height: 16px;
}
.name {
  white-space: nowrap;
  overflow: hidden;
  text-overflow: ellipsis;
}
.facts {
  font-size: 13px;
}
.out .name {
  color: var(--husk);
}
.why {
  flex-basis: 100%;
  color: var(--clay);
  font-size: 13px;
}
.bar {
  flex-basis: 100%;
  height: 4px;
  background: var(--warp);
}
.bar span {
  display: block;
  height: 100%;
  background: var(--amber);
}
</style>
