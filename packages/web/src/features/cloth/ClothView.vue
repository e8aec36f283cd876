<script setup lang="ts">
import { PhCaretLeft, PhCaretRight, PhKeyboard } from '@phosphor-icons/vue'
import {
  addDays,
  type ClothItem,
  dayAt,
  durationWords,
  type Edit,
  isoWeekOf,
  lengthOf,
  minuteWords,
  mondayOf,
} from '@loom/core/view'
import { Button, Popover } from 'ant-design-vue'
import { computed, nextTick, onBeforeUnmount, onMounted, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { useSession } from '../../app/session.ts'
import ClothRow from './ClothRow.vue'
import { useDrag } from './drag.ts'
import ItemMenu from './ItemMenu.vue'
import { keyAction } from './keys.ts'
import KeysDialog from './KeysDialog.vue'
import PlaceDialog from './PlaceDialog.vue'
import RenameDialog from './RenameDialog.vue'
import TheShelf from './TheShelf.vue'
import { DAYS, useCloth } from './use-cloth.ts'

const route = useRoute()
const router = useRouter()
const session = useSession()

const zoneHere = computed(() => session.person?.zone ?? 'UTC')
const asked = computed(() => (typeof route.query.week === 'string' ? route.query.week : ''))
const from = computed(() =>
  /^\d{4}-\d\d-\d\d$/.test(asked.value)
    ? mondayOf(asked.value)
    : mondayOf(dayAt(session.now(), zoneHere.value)),
)
const cloth = useCloth(from)
const { data, week, trouble, now } = cloth

const root = ref<HTMLElement | null>(null)
const menu = ref<{ item: ClothItem; at: DOMRect } | null>(null)
const dialog = ref<{ kind: 'place' | 'rename'; item: ClothItem } | { kind: 'keys' } | null>(null)

const axis = computed(() => week.value?.axis ?? { from: 420, to: 1140 })
const hourMarks = computed(() => {
  const marks: number[] = []
  for (let m = axis.value.from; m < axis.value.to; m += 60) marks.push(m)
  return marks
})
const heading = computed(() => {
  const last = addDays(from.value, DAYS - 1)
  const part = (date: string, options: Intl.DateTimeFormatOptions): string =>
    new Intl.DateTimeFormat('en-IE', { timeZone: 'UTC', ...options }).format(Date.parse(date))
  const sameMonth = from.value.slice(0, 7) === last.slice(0, 7)
  const begin = part(from.value, sameMonth ? { day: 'numeric' } : { day: 'numeric', month: 'long' })
  return `${begin} – ${part(last, { day: 'numeric', month: 'long' })}`
})
const isThisWeek = computed(() => from.value === mondayOf(dayAt(session.now(), zoneHere.value)))
const empty = computed(() => data.value !== undefined && data.value.sources.length === 0)

const drag = useDrag({
  root,
  itemOf: cloth.itemOf,
  axis: () => axis.value,
  defaultMinutes: () => data.value?.defaultMinutes ?? 30,
  zone: () => zoneHere.value,
  drop: (item, edit) => void cloth.edit(item, edit),
})

function go(days: number): void {
  void router.replace({ query: { week: addDays(from.value, days) } })
}
function goToday(): void {
  void router.replace({ query: {} })
}
function toggle(item: ClothItem): void {
  void cloth.edit(item, { do: item.done ? 'reopen' : 'complete' })
}
function openMenu(item: ClothItem, at: DOMRect): void {
  if (!drag.justDropped()) menu.value = { item, at }
}
/** Whoever came by keyboard goes on from the same item, wherever it has gone. */
function focusOn(key: string): void {
  root.value?.querySelector<HTMLElement>(`[data-key="${CSS.escape(key)}"]`)?.focus()
}
function closeMenu(): void {
  const key = menu.value?.item.key
  menu.value = null
  if (key) void nextTick(() => focusOn(key))
}
async function change(item: ClothItem, edit: Edit): Promise<void> {
  menu.value = null
  dialog.value = null
  const arriving = cloth.edit(item, edit)
  await nextTick(() => focusOn(item.key))
  await arriving
}
function ask(kind: 'place' | 'rename', item: ClothItem): void {
  menu.value = null
  dialog.value = { kind, item }
}

function onItemKey(event: KeyboardEvent): void {
  const element = (event.target as HTMLElement).closest<HTMLElement>('[data-key]')
  const item = element && event.target === element && cloth.itemOf(element.dataset.key ?? '')
  if (!element || !item || !data.value) return
  const action = keyAction(item, event, zoneHere.value, data.value.defaultMinutes)
  if (!action) return
  event.preventDefault()
  event.stopPropagation()
  if (action.kind === 'edit') void change(item, action.edit)
  else if (action.kind === 'menu') menu.value = { item, at: element.getBoundingClientRect() }
  else ask(action.kind, item)
}
function onKey(event: KeyboardEvent): void {
  const typing = (event.target as HTMLElement).closest('input, textarea, select, [role="dialog"]')
  if (typing || event.ctrlKey || event.metaKey || event.altKey) return
  if (event.key === '[') go(-DAYS)
  else if (event.key === ']') go(DAYS)
  else if (event.key === 't') goToday()
  else if (event.key === '?') dialog.value = { kind: 'keys' }
}
onMounted(() => window.addEventListener('keydown', onKey))
onBeforeUnmount(() => window.removeEventListener('keydown', onKey))

/** A row that is drawn anew takes the focus from what somebody was working on; it is given back. */
let focused: string | null = null
function onFocus(event: FocusEvent): void {
  focused = (event.target as HTMLElement).dataset.key ?? null
}
watch(
  week,
  () => {
    if (focused && document.activeElement === document.body) focusOn(focused)
  },
  { flush: 'post' },
)

const heldWords = computed(() => {
  const held = drag.held.current
  return held
    ? `${held.item.title} · ${durationWords(lengthOf(held.item, data.value?.defaultMinutes ?? 30))}`
    : ''
})
</script>

<template>
  <main ref="root" class="cloth-page" @keydown="onItemKey" @focusin="onFocus" @pointerdown="focused = null">
    <div class="head">
      <h1>{{ heading }}</h1>
      <span class="quiet">week {{ isoWeekOf(from) }}</span>
      <div class="steps">
        <Button aria-label="The week before" @click="go(-DAYS)"><PhCaretLeft :size="15" /></Button>
        <Button :disabled="isThisWeek" @click="goToday">This week</Button>
        <Button aria-label="The week after" @click="go(DAYS)"><PhCaretRight :size="15" /></Button>
      </div>
      <span class="spacer" />
      <Popover placement="bottomRight" trigger="click">
        <template #content>
          <ul class="sources">
            <li v-for="s in data?.sources ?? []" :key="s.id">
              <span class="dye" :class="s.holds" :style="{ background: s.dye }" />{{ s.name }}
              <span class="quiet">{{ s.service }}, {{ s.holds === 'task' ? 'tasks' : 'events' }}</span>
            </li>
          </ul>
          <RouterLink to="/connections">Choose what takes part</RouterLink>
        </template>
        <Button>{{ data?.sources.length ?? 0 }} sources</Button>
      </Popover>
      <Button aria-label="Keys" title="Keys (?)" @click="dialog = { kind: 'keys' }"
        ><PhKeyboard :size="17"
      /></Button>
    </div>

    <p v-if="trouble && !data" class="sheet notice" role="alert">{{ trouble }}</p>
    <div v-else-if="empty" class="sheet notice">
      <h2>Nothing is woven yet</h2>
      <p>The Cloth shows your calendars and tasks together. Connect the first one to begin.</p>
      <RouterLink to="/connections"><Button type="primary">Connect a service</Button></RouterLink>
    </div>
    <template v-else-if="week && data">
      <div class="sheet weave" :style="{ '--hour': `${(100 * 60) / (axis.to - axis.from)}%` }">
        <div class="axis" aria-hidden="true">
          <span />
          <span class="no-hour">All day, no hour yet</span>
          <div class="hours">
            <span
              v-for="m in hourMarks"
              :key="m"
              :style="{ left: `${(100 * (m - axis.from)) / (axis.to - axis.from)}%` }"
              >{{ minuteWords(m).slice(0, 2) }}</span
            >
          </div>
        </div>
        <ClothRow
          v-for="row in week.rows"
          :key="row.date"
          :row="row"
          :axis="axis"
          :hours="data.hours"
          :now="week.now?.date === row.date ? week.now.minute : null"
          :sources="data.sources"
          :held="drag.held.current"
          @toggle="toggle"
          @menu="openMenu"
        />
      </div>
      <TheShelf
        :groups="week.shelf"
        :sources="data.sources"
        :held="drag.held.current"
        @toggle="toggle"
        @menu="openMenu"
      />
    </template>
    <p v-else class="quiet notice">Fetching the week…</p>

    <div
      v-if="drag.held.current && !drag.held.current.lengthening"
      class="ghost"
      :style="{ transform: `translate(${drag.held.current.x + 12}px, ${drag.held.current.y - 36}px)` }"
    >
      {{ heldWords }}
    </div>
    <ItemMenu
      v-if="menu && data"
      :item="cloth.itemOf(menu.item.key) ?? menu.item"
      :at="menu.at"
      :zone="zoneHere"
      :default-minutes="data.defaultMinutes"
      :sources="data.sources"
      @edit="e => menu && void change(menu.item, e)"
      @place="menu && ask('place', menu.item)"
      @rename="menu && ask('rename', menu.item)"
      @close="closeMenu"
    />
    <PlaceDialog
      v-if="dialog?.kind === 'place' && data"
      :item="dialog.item"
      :zone="zoneHere"
      :default-minutes="data.defaultMinutes"
      :day="isThisWeek ? dayAt(now, zoneHere) : from"
      @edit="e => dialog?.kind === 'place' && void change(dialog.item, e)"
      @close="dialog = null"
    />
    <RenameDialog
      v-if="dialog?.kind === 'rename'"
      :item="dialog.item"
      @edit="e => dialog?.kind === 'rename' && void change(dialog.item, e)"
      @close="dialog = null"
    />
    <KeysDialog v-if="dialog?.kind === 'keys'" @close="dialog = null" />
  </main>
</template>

<style scoped>
.cloth-page {
  --label: 116px;
  --head: 172px;
  padding: 10px 14px 24px;
}
.head {
  display: flex;
  align-items: center;
  gap: 12px;
  flex-wrap: wrap;
  margin-bottom: 10px;
}
.steps {
  display: flex;
  gap: 6px;
}
.steps :deep(.ant-btn),
.head > :deep(.ant-btn) {
  display: inline-flex;
  align-items: center;
}
.spacer {
  flex: 1;
}
.axis {
  display: grid;
  grid-template-columns: var(--label) var(--head) minmax(0, 1fr);
  font-size: 12px;
  color: var(--husk);
  height: 22px;
  line-height: 22px;
}
.no-hour {
  padding-left: 12px;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.hours {
  position: relative;
}
.hours span {
  position: absolute;
  padding-left: 4px;
}
.notice {
  padding: 28px;
}
.notice h2 {
  margin-bottom: 6px;
}
.sources {
  list-style: none;
  margin: 0 0 8px;
  padding: 0;
  display: grid;
  gap: 5px;
}
.sources li {
  display: flex;
  align-items: center;
  gap: 8px;
}
.dye {
  height: 16px;
}
.dye.task {
  border-radius: 50%;
  height: 10px;
}
.ghost {
  position: fixed;
  left: 0;
  top: 0;
  z-index: 1000;
  pointer-events: none;
  background: var(--band);
  color: var(--band-ink);
  padding: 3px 9px;
  border-radius: 3px;
  font-size: 12.5px;
  box-shadow: var(--float);
}
@media (max-width: 720px) {
  .cloth-page {
    --label: 100px;
    --head: 110px;
  }
  .weave {
    overflow-x: auto;
  }
  .weave > * {
    min-width: 900px;
  }
}
</style>
