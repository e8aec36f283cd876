<script setup lang="ts">
import { type Level, LEVEL_WORDS, reaches } from '@loom/core/view'
import { Button } from 'ant-design-vue'
import { computed } from 'vue'
import { type Ask, askButton, askSentences } from '../team/asks.ts'
import SentenceChoice from '../../ui/SentenceChoice.vue'
import { LEVEL_CHOICES } from '../../ui/level-choices.ts'
import {
  becauseWords,
  type Cell,
  cellKey,
  columnsOf,
  grantOf,
  keyOf,
  type Said,
  saidOf,
  type To,
  type Told,
} from './sharing.ts'

/** What is chosen in words, what a change would open and close, and saving it. */

export interface Effect {
  effects: { person: string; list: string; from: Level; to: Level; items: number }[]
  closes: number
  /** Whose agreement it needs. */
  asks: Ask[]
}
const props = defineProps<{
  told: Told
  chosen: readonly Cell[]
  changed: ReadonlyMap<string, Said>
  effect: Effect | null
  busy: boolean
  reason: string
}>()
const emit = defineEmits<{ level: [level: Level | null]; passOn: [passOn: boolean]; save: []; cancel: [] }>()

const columns = computed(() => columnsOf(props.told))
const lists = computed(() => props.told.lists.filter(l => props.chosen.some(c => c.list === l.id)))
const whom = computed(() => columns.value.filter(c => props.chosen.some(x => x.column === c.key)))
const isOne = computed(() => props.chosen.length === 1)
const list = computed(() => lists.value[0])
const column = computed(() => whom.value[0])

const namesOf = (names: readonly string[]): string =>
  names.length <= 3 ? names.join(', ') : `${names.slice(0, 2).join(', ')} and ${names.length - 2} more`
const heading = computed(
  () =>
    `${namesOf(lists.value.map(l => l.name))}, by ${namesOf(whom.value.map(c => (c.to.kind === 'everybody' ? 'everybody' : c.name)))}`,
)
const who = computed(() => {
  if (whom.value.length !== 1) return 'These see'
  const { kind } = column.value?.to ?? { kind: 'everybody' }
  if (kind === 'everybody') return 'Everybody sees'
  if (kind === 'link') return `Whoever has the link “${column.value?.name}” sees`
  return kind === 'group' ? `${column.value?.name} see` : `${column.value?.name} sees`
})
const NONE = 'none' as const
const isOfLinks = computed(() => whom.value.every(c => c.to.kind === 'link'))
const choices = computed(() =>
  isOfLinks.value
    ? [
        { value: NONE, label: LEVEL_WORDS.nothing.name },
        ...LEVEL_CHOICES.filter(c => c.value !== 'nothing' && c.value !== 'change'),
      ]
    : [
        ...LEVEL_CHOICES.filter(
          c =>
            !isPassed.value ||
            (c.value !== 'nothing' && lists.value.every(l => l.upTo === null || reaches(l.upTo, c.value))),
        ),
        {
          value: NONE,
          label:
            column.value?.to.kind === 'everybody'
              ? 'nothing, and not a word'
              : 'what everybody sees, no word of their own',
        },
      ],
)
/** Among what is chosen is something that is not theirs. */
const isPassed = computed(() => lists.value.some(l => l.upTo !== null))
const PASS_ON = [
  { value: false, label: 'may not pass it on' },
  { value: true, label: 'may pass it on' },
]
/** Whether all that is chosen may be passed on; null where that is nothing to say. */
const passOn = computed(() => {
  if (isPassed.value || isOfLinks.value || said.value === NONE || said.value === 'nothing') return null
  return props.chosen.every(cell => {
    const [l, c] = [
      props.told.lists.find(x => x.id === cell.list),
      columns.value.find(x => x.key === cell.column),
    ]
    return l && c && (props.changed.get(cellKey(cell)) ?? saidOf(l, c)).passOn
  })
})
/** What is said of all that is chosen, where it is the same. */
const said = computed<Level | typeof NONE>(() => {
  const all = props.chosen.map(cell => {
    const now = props.changed.get(cellKey(cell))
    if (now !== undefined) return now.level
    const [l, c] = [
      props.told.lists.find(x => x.id === cell.list),
      columns.value.find(x => x.key === cell.column),
    ]
    return l && c ? grantOf(l, c) : null
  })
  const [first = null] = all
  if (!all.every(l => l === first)) return NONE
  return first === 'nothing' && isOfLinks.value ? NONE : (first ?? NONE)
})
const reached = computed(() => {
  const to = column.value?.to
  return isOne.value && to?.kind === 'person' ? list.value?.reached.find(r => r.person === to.id) : undefined
})
/** What else the one address that is chosen shows of it, and to whom. */
const ahead = computed(() => {
  const { to } = column.value ?? {}
  const link = to?.kind === 'link' && whom.value.length === 1 && props.told.links.find(l => l.id === to.id)
  if (!link) return ''
  const weeks = link.weeks === 1 ? 'a week' : `${link.weeks} weeks`
  const part = link.ofView
    ? ' It shows what its view shows of them, and nothing private.'
    : ' What is private is only busy.'
  return `From today to ${weeks} ahead.${part} Whoever has it can pass it on.`
})
/** A word for everybody does not count where one of their own is said. */
const others = computed(() => {
  if (!isOne.value || column.value?.to.kind !== 'everybody') return ''
  const own = new Set(list.value?.grants.flatMap(g => (g.to.kind === 'person' ? [g.to.id] : [])))
  const names = props.told.people.filter(p => own.has(p.id) && p.id !== props.told.me).map(p => p.name)
  return names.length > 0 ? `Of ${namesOf(names)} something else is said, which counts.` : ''
})

const nameOf = (to: To): string =>
  to.kind === 'everybody' ? 'everybody' : (columns.value.find(c => c.key === keyOf(to))?.name ?? 'yourself')
/** What saved views open of it, whatever is said here. */
const opened = computed(() =>
  isOne.value && !isOfLinks.value
    ? (list.value?.opened ?? []).map(
        o => `The view “${o.view}” opens ${LEVEL_WORDS[o.level].name} of what it shows to ${nameOf(o.to)}.`,
      )
    : [],
)

/** What changes, said once for all of whom it is so. */
const told = computed(() => {
  const byPerson = new Map<string, Map<string, number>>()
  for (const { person, from, to, items } of props.effect?.effects ?? []) {
    const steps = byPerson.get(person) ?? new Map<string, number>()
    const step = `${LEVEL_WORDS[from].name} → ${LEVEL_WORDS[to].name}`
    byPerson.set(person, steps.set(step, (steps.get(step) ?? 0) + items))
  }
  const byWords = new Map<string, string[]>()
  for (const [id, steps] of byPerson) {
    const words = [...steps].map(([step, n]) => (n > 0 ? `${things(n)}, ${step}` : step)).join('; ')
    const link = props.told.links.find(l => l.id === id)
    const name = link ? `Whoever has “${link.name}”` : (props.told.people.find(p => p.id === id)?.name ?? '')
    byWords.set(words, [...(byWords.get(words) ?? []), name])
  }
  return [...byWords].map(([words, names]) => ({ who: namesOf(names), words }))
})
/** Who may show more of it to others from then on, or no longer may. */
const passing = computed(() => {
  const names = new Map<boolean, string[]>()
  for (const [key, now] of props.changed) {
    const list = props.told.lists.find(l => key.startsWith(`${l.id} `))
    const to = columns.value.find(c => list && key === cellKey({ list: list.id, column: c.key }))
    if (!list || !to || saidOf(list, to).passOn === now.passOn) continue
    names.set(now.passOn, [...new Set([...(names.get(now.passOn) ?? []), to.name])])
  }
  return [...names].map(([may, whose]) => ({
    who: namesOf(whose),
    words: may ? 'may show it to others' : 'may no longer show it to others',
  }))
})
const things = (n: number): string => `${n} ${n === 1 ? 'item' : 'items'}`
</script>

<template>
  <section class="sheet part" aria-live="polite">
    <template v-if="chosen.length > 0">
      <h2>{{ heading }}</h2>
      <p class="sentence">
        {{ who }}
        <SentenceChoice
          :model-value="said"
          name="What they see"
          :options="choices"
          @update:model-value="v => emit('level', v === NONE ? null : v)"
        /><template v-if="passOn !== null"
          >, and
          <SentenceChoice
            :model-value="passOn"
            name="Whether they show it to others"
            :options="PASS_ON"
            @update:model-value="v => emit('passOn', v)" /></template
        >.
      </p>
      <p v-if="isPassed" class="quiet">
        It is not yours: you show others as much as you see, and take back what you gave.
      </p>
      <p v-if="ahead" class="quiet">{{ ahead }}</p>
      <p v-if="reached" class="quiet">
        Now: {{ LEVEL_WORDS[reached.level].name }}, {{ becauseWords(props.told, reached.because) }}.
      </p>
      <p v-if="others" class="quiet">{{ others }}</p>
      <p v-for="o in opened" :key="o" class="quiet">{{ o }}</p>
      <p
        v-if="
          list?.itemKind === 'event' && isOne && !isOfLinks && changed.size === 0 && list.grants.length === 0
        "
        class="quiet"
      >
        Nothing is shared of this calendar: colleagues think you are free.
      </p>
      <p v-if="list?.asBefore && isOne && !isOfLinks" class="quiet">
        Private entries are seen as before, until you have chosen here once; from then on they are only busy
        to others.
      </p>
    </template>
    <p v-else class="quiet">
      Choose a cell, or several with Shift, and say what they see. By keyboard: arrows, and 0 to 4 for the
      levels from left to right.
    </p>
    <template v-if="changed.size > 0">
      <div v-if="effect" class="effect">
        <p v-if="told.length === 0 && passing.length === 0 && effect.closes === 0">
          Nothing changes for anybody.
        </p>
        <ul v-else>
          <li v-for="t in told" :key="t.who">
            <b>{{ t.who }}</b>: {{ t.words }}
          </li>
          <li v-for="p in passing" :key="p.words">
            <b>{{ p.who }}</b> {{ p.words }}
          </li>
          <li v-if="effect.closes > 0">
            {{ things(effect.closes) }} marked private become only busy to others
          </li>
        </ul>
      </div>
      <p v-for="s in askSentences(effect?.asks ?? [])" :key="s" role="note">{{ s }}</p>
      <p v-if="reason" class="why" role="alert">{{ reason }}</p>
      <p class="acts">
        <Button type="primary" :loading="busy" @click="emit('save')">{{
          effect && effect.asks.length > 0 ? askButton(effect.asks) : 'Save'
        }}</Button>
        <Button @click="emit('cancel')">Cancel</Button>
      </p>
    </template>
  </section>
</template>

<style scoped>
.part {
  padding: 14px 16px;
  display: grid;
  gap: 8px;
  align-content: start;
}
h2,
p {
  margin: 0;
}
.sentence {
  line-height: 1.9;
}
.effect {
  padding: 10px 12px;
  background: var(--amber-wash);
  border-radius: 2px;
}
ul {
  margin: 0;
  padding: 0;
  list-style: none;
}
.acts {
  display: flex;
  gap: 8px;
}
.why {
  color: var(--clay);
}
</style>
