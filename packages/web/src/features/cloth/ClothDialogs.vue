<script setup lang="ts">
import type { ClothItem } from '@loom/core/view'
import { computed } from 'vue'
import { useMine } from '../../stores/mine.ts'
import { useSession } from '../../stores/session.ts'
import ItemMenu from './item/ItemMenu.vue'
import type { Acts } from './acts/use-acts.ts'
import type { Scene } from './data/use-scene.ts'
import { usualKept } from './data/further-time.ts'
import type { SeeMore } from '../team/asking.ts'
import { partInOurTheme } from '../../ui/in-our-theme.ts'

/** Whatever is asked before something is done. */
const props = defineProps<{
  acts: Acts
  scene: Scene
  /** Work windows can be made here. */
  windows?: boolean
}>()
const emit = defineEmits<{
  window: [given: { name: string; date: string; start: number; end: number }]
  offer: [given: { title: string; date: string; from: number; to: number }]
}>()
const mine = useMine()
const session = useSession()
/** Each is fetched when it is first asked for. */
const DeleteDialog = partInOurTheme(() => import('./dialogs/DeleteDialog.vue'))
const GiveDialog = partInOurTheme(() => import('./dialogs/GiveDialog.vue'))
const AskToSee = partInOurTheme(() => import('../team/AskToSee.vue'))
const AddTime = partInOurTheme(() => import('./dialogs/AddTime.vue'))
const KeysDialog = partInOurTheme(() => import('./dialogs/KeysDialog.vue'))
const MoveDialog = partInOurTheme(() => import('./dialogs/MoveDialog.vue'))
const PlaceDialog = partInOurTheme(() => import('./dialogs/PlaceDialog.vue'))
const PutByDialog = partInOurTheme(() => import('./dialogs/PutByDialog.vue'))
const RenameDialog = partInOurTheme(() => import('./dialogs/RenameDialog.vue'))
const WhichDates = partInOurTheme(() => import('./dialogs/WhichDates.vue'))
const asked = computed(() => props.acts.asked.value)
const menu = computed(() => props.acts.menu.value)
const data = computed(() => props.scene.data.value)
const close = (): void => props.acts.closeAsked()
function seeMoreOf(item: ClothItem): SeeMore {
  const [person = ''] = item.people
  const [list = ''] = item.sources
  return item.onlyBusy
    ? { person, name: props.scene.nameOf(person) }
    : { list, name: props.scene.nameOf(list) }
}
const tasks = computed(() =>
  props.scene.shelf.value
    .flatMap(g => g.items)
    .sort((x, y) => y.pressure - x.pressure)
    .map(i => i.item)
    .concat(
      props.scene.shown.value.filter(
        i => (i.kind === 'task' || i.kind === 'tied') && !i.done && i.place.kind !== 'none',
      ),
    ),
)
const firstDay = computed(() => {
  const { dates, today } = props.scene
  return dates.value.includes(today.value) ? today.value : (dates.value[0] ?? today.value)
})
</script>

<template>
  <template v-if="data">
    <ItemMenu
      v-if="menu"
      :item="scene.cloth.itemOf(menu.item.key) ?? menu.item"
      :task="scene.cloth.itemOf(menu.item.of ?? '') ?? null"
      :at="menu.at"
      :zone="scene.zone.value"
      :now="scene.now.value"
      :default-minutes="data.defaultMinutes"
      :sources="scene.sources.value"
      :keys="mine.settings.value.keys"
      :clash="menu.clash"
      :room="menu.room"
      :only-looks="session.onlyLooks"
      :clocked="acts.clocked.value"
      @act="outcome => menu && acts.perform(menu.item, outcome)"
      @free="f => menu && acts.takeFree(menu.item, f)"
      @close="acts.closeMenu"
    />
    <PlaceDialog
      v-if="asked?.kind === 'place' || asked?.kind === 'block'"
      :item="asked.item"
      :together="acts.together(asked.item)"
      :further="asked.kind === 'block'"
      :zone="scene.zone.value"
      :default-minutes="data.defaultMinutes"
      :day="firstDay"
      :free="scene.room(asked.item, asked.kind === 'block')"
      :usual="usualKept(mine.settings.value)"
      :sources="scene.sources.value"
      @edit="e => asked?.kind === 'place' && void acts.change(asked.item, e)"
      @make="acts.make"
      @close="close"
    />
    <RenameDialog
      v-if="asked?.kind === 'rename'"
      :item="asked.item"
      @edit="e => asked?.kind === 'rename' && void acts.change(asked.item, e)"
      @close="close"
    />
    <PutByDialog
      v-if="asked?.kind === 'put-by'"
      :together="acts.together(asked.item)"
      :today="scene.today.value"
      @edit="e => asked?.kind === 'put-by' && void acts.change(asked.item, e)"
      @close="close"
    />
    <GiveDialog
      v-if="asked?.kind === 'give'"
      :together="acts.together(asked.item)"
      :people="data.people"
      @edit="e => asked?.kind === 'give' && void acts.change(asked.item, e)"
      @close="close"
    />
    <AskToSee
      v-if="asked?.kind === 'see'"
      :of="seeMoreOf(asked.item)"
      :level="asked.item.onlyBusy ? 'title' : 'change'"
      @close="close"
    />
    <MoveDialog
      v-if="asked?.kind === 'move'"
      :item="asked.item"
      :sources="scene.sources.value"
      @close="close"
    />
    <WhichDates
      v-if="asked?.kind === 'which'"
      :title="asked.item.title"
      :removes="asked.edit.do === 'delete'"
      @choose="which => asked?.kind === 'which' && void acts.change(asked.item, asked.edit, which)"
      @close="close"
    />
    <DeleteDialog
      v-if="asked?.kind === 'sure'"
      :together="acts.together(asked.item)"
      :words="asked.words"
      @sure="asked?.kind === 'sure' && void acts.change(asked.item, asked.edit)"
      @close="close"
    />
    <AddTime
      v-if="asked?.kind === 'make'"
      :drawn="asked.drawn"
      :all-day="asked.allDay"
      :zone="scene.zone.value"
      :tasks="tasks"
      :sources="scene.sources.value"
      :people="data.people"
      :me="data.me"
      :settings="mine.settings.value"
      :given="acts.givenByView()"
      :windows="windows ?? false"
      @window="given => emit('window', given)"
      @offer="given => emit('offer', given)"
      @make="acts.make"
      @close="close"
    />
    <KeysDialog v-if="asked?.kind === 'keys'" @close="close" />
  </template>
</template>
