<script setup lang="ts">
import { type ClothItem, type Edit, durationWords, lengthOf } from '@loom/core/view'
import { computed, nextTick, onBeforeUnmount, onMounted, ref } from 'vue'
import { placeWords } from './use-cloth.ts'
import { type Source, sourceWords } from './signs.ts'

const props = defineProps<{
  item: ClothItem
  at: DOMRect
  zone: string
  defaultMinutes: number
  sources: readonly Source[]
}>()
const emit = defineEmits<{ edit: [edit: Edit]; place: []; rename: []; close: [] }>()

const list = ref<HTMLElement | null>(null)
const length = computed(() => lengthOf(props.item, props.defaultMinutes))

interface Choice {
  name: string
  keys?: string
  run: () => void
}
const choices = computed((): Choice[] => {
  const { item } = props
  const found: Choice[] = []
  const edit = (e: Edit) => () => emit('edit', e)
  if (item.completable)
    found.push({
      name: item.done ? 'Open again' : 'Complete',
      keys: 'Space',
      run: edit({ do: item.done ? 'reopen' : 'complete' }),
    })
  if (item.movable) {
    found.push({
      name: item.place.kind === 'none' ? 'Place at…' : 'Move to…',
      keys: 'P',
      run: () => emit('place'),
    })
    if (item.place.kind === 'timed') {
      found.push({
        name: 'Longer by 15 min',
        keys: 'Shift →',
        run: edit({ do: 'lengthen', minutes: length.value + 15 }),
      })
      if (length.value > 15)
        found.push({
          name: 'Shorter by 15 min',
          keys: 'Shift ←',
          run: edit({ do: 'lengthen', minutes: length.value - 15 }),
        })
    }
    if (item.kind !== 'event' && item.place.kind !== 'none')
      found.push({ name: 'Back to the shelf', keys: 'Delete', run: edit({ do: 'unplace' }) })
    found.push({ name: 'Rename…', keys: 'R', run: () => emit('rename') })
  }
  return found
})

const place = computed(() => {
  const { at } = props
  const width = 268
  const left = Math.min(Math.max(8, at.left), window.innerWidth - width - 8)
  const below = at.bottom + 4
  const height = 92 + choices.value.length * 31
  const top = below + height > window.innerHeight ? Math.max(8, at.top - height - 4) : below
  return { left: `${left}px`, top: `${top}px`, width: `${width}px` }
})

function move(step: number): void {
  const buttons = [...(list.value?.querySelectorAll<HTMLElement>('button') ?? [])]
  const index = buttons.findIndex(b => b === document.activeElement)
  buttons[(index + step + buttons.length) % buttons.length]?.focus()
}
function outside(event: PointerEvent): void {
  if (!list.value?.contains(event.target as Node)) emit('close')
}
onMounted(async () => {
  await nextTick()
  list.value?.querySelector<HTMLElement>('button')?.focus()
  window.addEventListener('pointerdown', outside, true)
})
onBeforeUnmount(() => window.removeEventListener('pointerdown', outside, true))
</script>

<template>
  <div
    ref="list"
    class="menu"
    :style="place"
    role="dialog"
    :aria-label="item.title"
    @keydown.esc.stop="emit('close')"
    @keydown.down.prevent="move(1)"
    @keydown.up.prevent="move(-1)"
  >
    <div class="what">
      <strong>{{ item.title }}</strong>
      <span
        >{{ placeWords(item, zone)
        }}<template v-if="item.place.kind === 'timed'"> · {{ durationWords(length) }}</template></span
      >
      <span>{{ sourceWords(item, sources) }}</span>
      <span v-if="item.fixedBecause" class="fixed">{{ item.fixedBecause }}</span>
    </div>
    <button v-for="c in choices" :key="c.name" type="button" class="plain choice" @click="c.run">
      {{ c.name }}<kbd v-if="c.keys">{{ c.keys }}</kbd>
    </button>
  </div>
</template>

<style scoped>
.menu {
  position: fixed;
  z-index: 900;
  background: var(--cloth);
  border: 1px solid var(--warp-strong);
  border-radius: 3px;
  box-shadow: var(--float);
  padding-bottom: 4px;
}
.what {
  display: grid;
  padding: 9px 12px;
  border-bottom: 1px solid var(--warp);
  margin-bottom: 4px;
  font-size: 12.5px;
  color: var(--husk);
}
.what strong {
  font-size: 14px;
  color: var(--peat);
}
.fixed {
  color: var(--clay);
}
.choice {
  display: flex;
  justify-content: space-between;
  width: 100%;
  padding: 5px 12px;
  text-align: left;
}
.choice:hover,
.choice:focus-visible {
  background: var(--amber-wash);
  outline-offset: -2px;
}
kbd {
  font: inherit;
  font-size: 12px;
  color: var(--husk);
}
</style>
