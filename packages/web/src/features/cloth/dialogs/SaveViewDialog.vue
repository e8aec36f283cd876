<script setup lang="ts">
import { useQuery } from '@pinia/colada'
import { Input, Modal } from 'ant-design-vue'
import { computed, reactive } from 'vue'
import { answer, api } from '../../../api/client.ts'
import ChooseOne from '../../../ui/ChooseOne.vue'
import ChooseSome from '../../../ui/ChooseSome.vue'
import { useAttempt } from '../../../ui/attempt.ts'
import { grantsOf, type NamedView, type SavedView, type View } from '../data/use-view.ts'
import { VIEW_SIGNS } from '../data/view-signs.ts'

/** Saves the current view under a name, or names a saved one otherwise; and says whom it is for. */
const props = defineProps<{ view: View; of: SavedView | null }>()
const emit = defineEmits<{ close: [] }>()
type Grants = NonNullable<NamedView['grants']>

const before: Grants = props.of ? grantsOf(props.of) : []
const keyOf = (to: Grants[number]['to']): string =>
  to.kind === 'everybody' ? 'everybody' : `${to.kind} ${to.id}`
const given = reactive({
  name: props.of?.name ?? '',
  icon: props.of?.icon ?? ('leaf' as SavedView['icon']),
  whom: props.of?.for ?? ('me' as SavedView['for']),
  some: before.filter(g => g.to.kind !== 'everybody').map(g => keyOf(g.to)),
  level: before[0]?.level ?? ('everything' as Grants[number]['level']),
  opens: before[0]?.opens ?? ('nothing' as const),
})
const isMine = computed(() => props.of === null || props.of.right === 'own')
const team = useQuery({ key: ['team', 'sharing'], query: () => answer(() => api.sharing.$get()) })
const options = computed(() => {
  const { me = '', people = [], groups = [] } = team.data.value ?? {}
  return [
    ...groups.map(g => ({ value: `group ${g.id}`, label: `${g.name} (group)` })),
    ...people.filter(p => p.id !== me).map(p => ({ value: `person ${p.id}`, label: p.name })),
  ]
})
const chosen = computed(
  () =>
    options.value
      .filter(o => given.some.includes(o.value))
      .map(o => o.label)
      .join(', ') || 'whom',
)
const WHOM = [
  { value: 'me' as const, label: 'only me' },
  { value: 'some' as const, label: 'some of us' },
  { value: 'everybody' as const, label: 'everybody here' },
]
const LEVELS = [
  { value: 'everything' as const, label: 'look by it' },
  { value: 'change' as const, label: 'change it as well' },
]
const OPENS = [
  { value: 'nothing' as const, label: 'what they see anyway' },
  { value: 'busy' as const, label: 'taken time as well' },
  { value: 'title' as const, label: 'titles as well' },
  { value: 'everything' as const, label: 'everything as well' },
]
const grants = computed((): Grants => {
  const { whom, some, level } = given
  const opens = given.opens === 'nothing' ? null : given.opens
  if (whom === 'me') return []
  if (whom === 'everybody') return [{ to: { kind: 'everybody' }, level, opens }]
  return some.map(key => {
    const [kind, id = ''] = key.split(' ')
    return { to: { kind: kind === 'group' ? 'group' : 'person', id }, level, opens }
  })
})
const isReady = computed(() => given.name.trim() !== '' && (given.whom !== 'some' || given.some.length > 0))
const { busy, reason, attempt } = useAttempt()

async function save(): Promise<void> {
  if (!isReady.value) return
  const named = {
    name: given.name.trim(),
    icon: given.icon,
    ...(isMine.value && { grants: grants.value }),
  }
  const { of } = props
  if (await attempt(() => (of ? props.view.rename(of, named) : props.view.saveAs(named)))) emit('close')
}
</script>

<template>
  <Modal
    open
    :title="of ? of.name : 'Save as a view'"
    ok-text="Save"
    :ok-button-props="{ disabled: !isReady, loading: busy }"
    :width="540"
    @ok="save"
    @cancel="emit('close')"
  >
    <Input
      v-model:value="given.name"
      aria-label="Name of the view"
      placeholder="Name"
      :maxlength="100"
      @press-enter="save"
    />
    <div class="icons" role="radiogroup" aria-label="Sign">
      <button
        v-for="(sign, i) in VIEW_SIGNS"
        :key="i"
        type="button"
        class="plain icon"
        role="radio"
        :aria-checked="given.icon === i"
        :aria-label="i"
        @click="given.icon = i"
      >
        <component :is="sign" :size="18" />
      </button>
    </div>
    <template v-if="isMine">
      <p class="sentence">
        <span>For</span>
        <ChooseOne v-model="given.whom" name="Whom it is for" class="whom" :options="WHOM" />
        <ChooseSome
          v-if="given.whom === 'some'"
          v-model="given.some"
          name="People and groups"
          :label="chosen"
          :options="options"
        />
        <template v-if="given.whom !== 'me'">
          <span>who may</span>
          <ChooseOne v-model="given.level" name="What they may" class="may" :options="LEVELS" />
          <span>and see of what it shows</span>
          <ChooseOne v-model="given.opens" name="What comes into sight by it" class="may" :options="OPENS" />
        </template>
      </p>
      <p v-if="given.whom !== 'me' && given.opens !== 'nothing'" class="quiet">
        This opens to them, to look at, what the view shows now and later, of lists and calendars that are
        yours or that you may pass on. Private entries are at most taken time. If others change the view, it
        opens nothing more; if you do, it opens what it shows then.
      </p>
      <p v-else class="quiet">
        A view is a way of looking: by it each sees what they may see anyway. What others change about it
        stays theirs until they save it.
      </p>
    </template>
    <p v-if="reason" class="wrong" role="alert">{{ reason }}</p>
  </Modal>
</template>

<style scoped>
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
.sentence {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  align-items: center;
}
.whom {
  width: 140px;
}
.may {
  width: 180px;
}
.wrong {
  color: var(--clay);
}
</style>
