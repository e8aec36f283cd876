<script setup lang="ts">
import { PhPencilSimple, PhX } from '@phosphor-icons/vue'
import type { ClothItem } from '@loom/core/view'
import { onClickOutside, useEventListener } from '@vueuse/core'
import { computed, nextTick, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import { answer, api, Refused } from '../api/client.ts'
import { keyOf } from '../features/cloth/data/keys.ts'
import { useLiveState } from '../stores/live-state.ts'
import { foundItems } from '../stores/found-items.ts'
import { useLineList } from '../ui/line-list.ts'
import { say, useMessages } from '../stores/messages.ts'
import { useMine } from '../stores/mine.ts'
import { lostWords, takeBackMade } from '../stores/take-back.ts'
import { isForPage, isUndo } from '../stores/own-keys.ts'
import { useSession } from '../stores/session.ts'
import { dayOfItem, useCommandLines } from './use-command-lines.ts'
import { useQuickEntry } from './use-quick-entry.ts'

/** One field on every screen: write something down, find something, or go somewhere. */

const router = useRouter()
const session = useSession()
const mine = useMine()
const live = useLiveState()
const zone = computed(() => session.person?.zone ?? 'UTC')

const text = ref('')
const open = ref(false)
const field = ref<HTMLInputElement | null>(null)
const root = ref<HTMLElement | null>(null)
let before: HTMLElement | null = null

const { prepare, title, question, parts, takeBack, making } = useQuickEntry(text, open)
const lines = useCommandLines(text, title, question, { write: () => void writeDown(), go, show })
const { chosen, onKey: onListKey } = useLineList(lines)
watch(text, () => (chosen.value = 0))

function close(): void {
  open.value = false
  text.value = ''
  foundItems.value = []
  field.value?.blur()
  before?.focus()
}
// An item dragged from here goes to the Cloth: the list is hidden meanwhile, and closes after the drop.
const away = computed(() => open.value && live.holding)
watch(away, (now, was) => {
  if (was && !now && open.value) close()
})
function go(to: string): void {
  close()
  void router.push(to)
}
function show(item: ClothItem): void {
  const at = dayOfItem(item, zone.value)
  close()
  void router.push({ path: '/cloth', query: { ...(at && { at }), item: item.key } })
}
async function writeDown(): Promise<void> {
  const json = making()
  try {
    const made = await answer(() => api.cloth.make.$post({ json }))
    const written = title.value
    say({
      text: `${written}: written down in ${made.place}.${lostWords(made.lost)}`,
      undo: () => void takeBackMade(made.intent, written),
      back: { do: 'made', title: written, intent: made.intent },
    })
    close()
  } catch (error) {
    if (!(error instanceof Refused)) throw error
    say({ text: `Not written down: ${error.message}`, tone: 'wrong' })
  }
}
function onKey(event: KeyboardEvent): void {
  if (event.key !== 'Escape') return onListKey(event)
  event.stopPropagation()
  close()
}
function onFocus(): void {
  open.value = true
  void prepare()
}
function onShortcut(event: KeyboardEvent): void {
  const { keys } = mine.settings.value
  const isOurs = isForPage(event)
  if (isUndo(event) || (isOurs && event.key === keyOf('undo', keys))) {
    event.preventDefault()
    return void useMessages().takeBackLatest()
  }
  if (!isOurs || event.key !== keyOf('capture', keys)) return
  event.preventDefault()
  before = document.activeElement instanceof HTMLElement ? document.activeElement : null
  void nextTick(() => field.value?.focus())
}
useEventListener('keydown', onShortcut)
onClickOutside(root, () => (open.value = false))
</script>

<template>
  <div ref="root" class="command" :class="{ open }">
    <input
      ref="field"
      v-model="text"
      type="text"
      role="combobox"
      :aria-expanded="open && lines.length > 0"
      aria-controls="command-lines"
      :aria-activedescendant="lines[chosen] ? `command-${chosen}` : undefined"
      aria-label="Add, search or go to"
      placeholder="Add, search or go to"
      autocomplete="off"
      maxlength="500"
      @focus="onFocus"
      @keydown="onKey"
    />
    <kbd v-if="!open" aria-hidden="true"
      ><PhPencilSimple class="sign" :size="12" />{{ keyOf('capture', mine.settings.value.keys) }}</kbd
    >
    <div v-if="open && text.trim()" class="panel" :class="{ away }">
      <div v-if="parts.length > 0" class="parts" aria-live="polite">
        <span v-for="p in parts" :key="p.kind" class="part">
          <i>{{ p.name }}</i> {{ p.says }}
          <button
            type="button"
            class="plain"
            :aria-label="`Not ${p.name} ${p.says}: keep “${p.words}” in the title`"
            @click="(takeBack(p.words), field?.focus())"
          >
            <PhX :size="11" />
          </button>
        </span>
      </div>
      <div id="command-lines" role="listbox" aria-label="What it could be">
        <div
          v-for="(l, i) in lines"
          :id="`command-${i}`"
          :key="l.id"
          role="option"
          class="line"
          :aria-selected="i === chosen"
          :data-key="l.item?.key"
          :data-drag="l.item?.movable && !l.item.recurring ? 'found' : undefined"
          @click="l.run"
          @pointermove="chosen = i"
        >
          <span class="name">{{ l.name }}</span><span class="hint">{{ l.hint }}</span>
        </div>
      </div>
    </div>
  </div>
</template>

<style scoped>
.command {
  position: relative;
  width: 300px;
  flex: 0 1 300px;
  min-width: 34px;
}
/* Where the band is narrow it gives room to messages until somebody writes in it. */
@media (min-width: 1000px) and (max-width: 1420px) {
  .command:not(:focus-within) {
    flex-basis: 168px;
  }
  .command:not(:focus-within) kbd {
    display: none;
  }
  .command:not(:focus-within) input {
    padding-right: 8px;
  }
}
input {
  font: inherit;
  width: 100%;
  box-sizing: border-box;
  height: 30px;
  padding: 0 34px 0 11px;
  color: var(--band-ink);
  background: color-mix(in srgb, var(--band-ink) 9%, var(--band));
  border: 1px solid color-mix(in srgb, var(--band-ink) 32%, var(--band));
  border-radius: 3px;
}
input::placeholder {
  color: var(--band-quiet);
}
kbd {
  position: absolute;
  right: 8px;
  top: 5px;
  font: inherit;
  font-size: 12px;
  line-height: 18px;
  padding: 0 6px;
  color: var(--band-quiet);
  border: 1px solid color-mix(in srgb, var(--band-ink) 32%, var(--band));
  border-radius: 2px;
}
.sign {
  vertical-align: -1px;
  margin-right: 4px;
}
.panel {
  position: absolute;
  right: 0;
  top: calc(100% + 9px);
  z-index: 60;
  width: 420px;
  max-width: calc(100vw - 16px);
  box-sizing: border-box;
  padding: 8px;
  color: var(--peat);
  background: var(--cloth);
  border: 1px solid var(--warp-strong);
  border-top: 3px solid var(--amber);
  border-radius: 3px;
  box-shadow: var(--float);
}
.panel.away {
  visibility: hidden;
}
.line[data-drag] {
  cursor: grab;
  touch-action: none;
}
.parts {
  display: flex;
  flex-wrap: wrap;
  gap: 5px;
  padding: 2px 4px 8px;
}
.part {
  display: inline-flex;
  align-items: center;
  gap: 5px;
  padding: 1px 4px 1px 8px;
  background: var(--amber-wash);
  border-radius: 2px;
}
.part i {
  font-style: normal;
  color: var(--husk);
}
.part button {
  display: grid;
  place-items: center;
  width: 18px;
  height: 18px;
}
.line {
  display: flex;
  justify-content: space-between;
  gap: 12px;
  padding: 4px 8px;
  border-radius: 2px;
  cursor: pointer;
}
.line[aria-selected='true'] {
  background: var(--amber-wash);
}
.name {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.hint {
  color: var(--husk);
  white-space: nowrap;
}
@media (max-width: 900px) {
  .command {
    width: 150px;
  }
  .panel {
    position: fixed;
    left: 8px;
    right: 8px;
    top: 52px;
    width: auto;
  }
}
/* On a telephone it is a sign to touch, which then takes the whole band. */
@media (max-width: 720px) {
  .command {
    width: 34px;
  }
  .command:not(:focus-within) input {
    color: transparent;
    padding: 0;
  }
  .command:not(:focus-within) input::placeholder {
    color: transparent;
  }
  kbd {
    inset: 0;
    display: flex;
    align-items: center;
    justify-content: center;
    border: 0;
    padding: 0;
    font-size: 0;
    pointer-events: none;
  }
  .sign {
    margin: 0;
  }
  .command:focus-within {
    position: fixed;
    z-index: 70;
    left: 8px;
    right: 8px;
    top: 9px;
    width: auto;
  }
  .command:focus-within input {
    background: var(--band);
  }
}
</style>
