<script setup lang="ts">
import {
  PhCoffee,
  PhDrop,
  PhFlag,
  PhLamp,
  PhLeaf,
  PhMoon,
  PhPath,
  PhSun,
  PhUsers,
  PhWrench,
} from '@phosphor-icons/vue'
import { Button, Checkbox, Input, Modal } from 'ant-design-vue'
import { computed, reactive, ref } from 'vue'
import { useAttempt } from '../../app/attempt.ts'
import { say } from '../../app/messages.ts'
import FoldOut from '../../app/FoldOut.vue'
import { useMine } from '../../app/mine.ts'
import type { SavedView, View } from './use-view.ts'

/** Saved views, the team's and one's own; and what was changed about this one, offered for saving. */
const props = defineProps<{ view: View }>()
const mine = useMine()

const ICON: Record<SavedView['icon'], typeof PhLeaf> = {
  bead: PhDrop,
  leaf: PhLeaf,
  sun: PhSun,
  moon: PhMoon,
  lamp: PhLamp,
  wrench: PhWrench,
  people: PhUsers,
  flag: PhFlag,
  cup: PhCoffee,
  path: PhPath,
}
const icons = Object.keys(ICON) as SavedView['icon'][]

const naming = ref(false)
const given = reactive({ name: '', icon: 'leaf' as SavedView['icon'], team: false })
const { busy, reason, attempt } = useAttempt()
const groups = computed(() => [
  { name: 'The team’s', views: props.view.views.value.filter(v => v.team) },
  { name: 'Mine', views: props.view.views.value.filter(v => !v.team) },
])
const label = computed(() => props.view.saved.value?.name ?? 'No saved view')

async function saveAs(): Promise<void> {
  if (given.name.trim() && (await attempt(() => props.view.saveAs({ ...given, name: given.name.trim() }))))
    naming.value = false
}
async function save(): Promise<void> {
  if (!(await attempt(() => props.view.save()))) say({ text: reason.value, tone: 'wrong' })
}
function name(): void {
  given.name = ''
  naming.value = true
}
async function copyLink(id: string): Promise<void> {
  await navigator.clipboard.writeText(`${location.origin}/cloth?view=${id}`)
  say({ text: 'The link is copied.' })
}
</script>

<template>
  <span class="views">
    <component :is="ICON[view.saved.value?.icon ?? 'bead']" :size="15" aria-hidden="true" />
    <FoldOut v-slot="{ close }" name="Saved views" :label="label">
      <template v-for="g in groups" :key="g.name">
        <strong v-if="g.views.length > 0">{{ g.name }}</strong>
        <span v-for="v in g.views" :key="v.id" class="entry">
          <button type="button" class="plain pick-view" @click="(view.choose(v.id), close())">
            <component :is="ICON[v.icon]" :size="14" aria-hidden="true" /> {{ v.name }}
          </button>
          <button
            type="button"
            class="plain small"
            @click="mine.change({ view: mine.settings.value.view === v.id ? null : v.id })"
          >
            {{ mine.settings.value.view === v.id ? 'opens first' : 'open first' }}
          </button>
          <button type="button" class="plain small" :aria-label="`Link to ${v.name}`" @click="copyLink(v.id)">
            link
          </button>
          <button type="button" class="plain small" :aria-label="`Remove ${v.name}`" @click="view.remove(v)">
            remove
          </button>
        </span>
      </template>
      <button type="button" class="plain pick-view" @click="(view.choose(null), close())">
        No saved view
      </button>
      <Button size="small" @click="(name(), close())">Save this as a view…</Button>
    </FoldOut>
    <template v-if="view.changed.value.length > 0">
      <span class="quiet">changed</span>
      <button v-if="view.saved.value" type="button" class="plain act" :disabled="busy" @click="save">
        save
      </button>
      <button type="button" class="plain act" @click="view.drop">
        {{ view.saved.value ? 'as it was' : 'plain again' }}
      </button>
    </template>
    <Modal
      v-model:open="naming"
      title="Save as a view"
      :ok-text="given.team ? 'Save for the team' : 'Save for me'"
      :ok-button-props="{ disabled: !given.name.trim(), loading: busy }"
      :width="400"
      @ok="saveAs"
    >
      <Input
        v-model:value="given.name"
        aria-label="Name of the view"
        placeholder="Name"
        :maxlength="100"
        @press-enter="saveAs"
      />
      <div class="icons" role="radiogroup" aria-label="Sign">
        <button
          v-for="i in icons"
          :key="i"
          type="button"
          class="plain icon"
          role="radio"
          :aria-checked="given.icon === i"
          :aria-label="i"
          @click="given.icon = i"
        >
          <component :is="ICON[i]" :size="18" />
        </button>
      </div>
      <Checkbox v-model:checked="given.team">The team’s: every member sees it and may change it</Checkbox>
      <p v-if="reason" class="wrong" role="alert">{{ reason }}</p>
    </Modal>
  </span>
</template>

<style scoped>
.views {
  display: inline-flex;
  align-items: center;
  gap: 6px;
}
.entry {
  display: flex;
  align-items: center;
  gap: 8px;
}
.pick-view {
  flex: 1;
  display: inline-flex;
  align-items: center;
  gap: 6px;
  text-align: left;
  padding: 2px 0;
}
.pick-view:hover {
  text-decoration: underline;
}
.small,
.act {
  font-size: 12.5px;
  color: var(--amber);
  text-decoration: underline;
}
.icons {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  margin: 12px 0;
}
.icon {
  display: grid;
  place-items: center;
  width: 32px;
  height: 32px;
  border: 1px solid var(--warp-strong);
  border-radius: 3px;
}
.icon[aria-checked='true'] {
  border-color: var(--amber);
  background: var(--amber-wash);
}
.wrong {
  color: var(--clay);
}
</style>
