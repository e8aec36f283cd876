<script setup lang="ts">
import { computed, ref } from 'vue'
import { useAttempt } from '../../ui/attempt.ts'
import { say } from '../../stores/messages.ts'
import FoldOut from '../../ui/FoldOut.vue'
import { useMine } from '../../stores/mine.ts'
import { useSession } from '../../stores/session.ts'
import type { SavedView, View } from './data/use-view.ts'
import { VIEW_SIGNS } from './data/view-signs.ts'
import { partInOurTheme } from '../../ui/in-our-theme.ts'

const SaveViewDialog = partInOurTheme(() => import('./dialogs/SaveViewDialog.vue'))
const FeedDialog = partInOurTheme(() => import('../sharing/FeedDialog.vue'))

/** Saved views, the team's and one's own; and what was changed about this one, offered for saving. */
const props = defineProps<{ view: View }>()
const mine = useMine()
const session = useSession()

/** What is being named: what is seen now, or a saved one. */
const naming = ref<{ of: SavedView | null } | null>(null)
/** What is to be told to calendar programs: a saved view, or what there is. */
const feeding = ref<{ of: SavedView | null } | null>(null)
const { busy, reason, attempt } = useAttempt()
const groups = computed(() => [
  { name: 'For everybody', views: props.view.views.value.filter(v => v.for === 'everybody') },
  { name: 'For some of us', views: props.view.views.value.filter(v => v.for === 'some') },
  { name: 'Mine alone', views: props.view.views.value.filter(v => v.for === 'me') },
])
/** Whose it is, where it is not one's own. */
const byline = (v: SavedView): string =>
  v.right === 'own' ? '' : `${v.madeBy ?? 'somebody who has left'}${v.right === 'look' ? ', to look by' : ''}`
const label = computed(() => props.view.saved.value?.name ?? 'No saved view')

async function save(): Promise<void> {
  if (!(await attempt(() => props.view.save()))) say({ text: reason.value, tone: 'wrong' })
}
async function copyLink(id: string): Promise<void> {
  await navigator.clipboard.writeText(`${location.origin}/cloth?view=${id}`)
  say({ text: 'The link is copied.' })
}
</script>

<template>
  <span class="views">
    <component :is="VIEW_SIGNS[view.saved.value?.icon ?? 'bead']" :size="15" aria-hidden="true" />
    <FoldOut v-slot="{ close }" name="Saved views" :label="label">
      <template v-for="g in groups" :key="g.name">
        <strong v-if="g.views.length > 0">{{ g.name }}</strong>
        <span v-for="v in g.views" :key="v.id" class="entry">
          <button type="button" class="plain pick-view" @click="(view.choose(v.id), close())">
            <component :is="VIEW_SIGNS[v.icon]" :size="14" aria-hidden="true" /> {{ v.name }}
            <span v-if="byline(v)" class="quiet by">{{ byline(v) }}</span>
          </button>
          <button
            type="button"
            class="plain small"
            @click="mine.change({ view: mine.settings.value.view === v.id ? null : v.id })"
          >
            {{ mine.settings.value.view === v.id ? 'default' : 'make default' }}
          </button>
          <button type="button" class="plain small" :aria-label="`Link to ${v.name}`" @click="copyLink(v.id)">
            link
          </button>
          <button
            v-if="!session.onlyLooks"
            type="button"
            class="plain small"
            :aria-label="`${v.name} for calendar programs`"
            @click="((feeding = { of: v }), close())"
          >
            feed
          </button>
          <button
            v-if="v.right !== 'look' && !session.onlyLooks"
            type="button"
            class="plain small"
            :aria-label="`${v.right === 'own' ? 'Share or rename' : 'Rename'} ${v.name}`"
            @click="((naming = { of: v }), close())"
          >
            {{ v.right === 'own' ? 'share' : 'rename' }}
          </button>
          <button
            v-if="v.right === 'own' && !session.onlyLooks"
            type="button"
            class="plain small"
            :aria-label="`Remove ${v.name}`"
            @click="view.remove(v)"
          >
            remove
          </button>
        </span>
      </template>
      <button type="button" class="plain pick-view" @click="(view.choose(null), close())">
        No saved view
      </button>
      <button
        v-if="!session.onlyLooks"
        type="button"
        class="push small"
        @click="((naming = { of: null }), close())"
      >
        Save this as a view…
      </button>
      <button
        v-if="!session.onlyLooks"
        type="button"
        class="push small"
        @click="((feeding = { of: null }), close())"
      >
        For calendar programs…
      </button>
    </FoldOut>
    <template v-if="view.changed.value.length > 0">
      <span class="quiet">changed</span>
      <template v-if="view.saved.value && !session.onlyLooks">
        <button
          v-if="view.saved.value.right !== 'look'"
          type="button"
          class="plain act"
          :disabled="busy"
          @click="save"
        >
          save
        </button>
        <button type="button" class="plain act" @click="naming = { of: null }">save as my own…</button>
      </template>
      <button type="button" class="plain act" @click="view.drop">
        {{ view.saved.value ? 'Revert' : 'Reset' }}
      </button>
    </template>
    <FeedDialog v-if="feeding" :view="feeding.of" @close="feeding = null" />
    <SaveViewDialog v-if="naming" :view="view" :of="naming.of" @close="naming = null" />
  </span>
</template>

<style scoped>
.views {
  display: inline-flex;
  align-items: baseline;
  gap: 6px;
}
.views > svg {
  align-self: center;
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
.by {
  font-size: 12.5px;
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
</style>
