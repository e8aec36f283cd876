<script setup lang="ts">
import { dayWords, settingsDiff, type RuleSettings } from '@loom/core/view'
import { useQuery } from '@pinia/colada'
import { Button } from 'ant-design-vue'
import { computed, onMounted, useTemplateRef } from 'vue'
import { answer, api } from '../../api/client.ts'

/** Every version of a rule that was saved: what changed from one to the next, and the way back to it. */
const props = defineProps<{ id: string; version: number }>()
const emit = defineEmits<{ bringBack: [settings: RuleSettings] }>()

const query = useQuery({
  key: () => ['rules', 'versions', props.id, props.version],
  query: () => answer(() => api.rules[':id'].versions.$get({ param: { id: props.id } })),
})
const root = useTemplateRef<HTMLElement>('root')
// It opens above the present content.
onMounted(() => root.value?.scrollIntoView({ block: 'start' }))
const lines = computed(() => {
  const versions = query.data.value?.versions ?? []
  return versions.map((v, i) => {
    const before = versions[i + 1]
    return { ...v, changes: before ? settingsDiff(before.settings, v.settings) : [] }
  })
})
const when = (at: number): string => {
  const local = new Date(at)
  return `${dayWords(local.toISOString().slice(0, 10))} ${local.toTimeString().slice(0, 5)}`
}
</script>

<template>
  <section ref="root" class="sheet" aria-label="Versions">
    <ol>
      <li v-for="v in lines" :key="v.version">
        <span class="head"
          ><strong>Version {{ v.version }}</strong>
          <span class="quiet">{{ when(v.savedAt) }}{{ v.who ? ` · ${v.who}` : '' }}</span></span
        >
        <span v-if="v.changes.length === 0" class="quiet">{{
          v.version === lines.at(-1)?.version ? 'as it was first turned on' : 'nothing else changed'
        }}</span>
        <span v-else>
          <span v-for="c in v.changes" :key="c.what" class="change"
            >{{ c.what }} <s>{{ c.before }}</s> → {{ c.after }}</span
          >
        </span>
        <Button v-if="v.version !== lines[0]?.version" size="small" @click="emit('bringBack', v.settings)"
          >Restore</Button
        >
        <span v-else class="quiet">in force</span>
      </li>
    </ol>
  </section>
</template>

<style scoped>
section {
  scroll-margin-top: 110px;
}
ol {
  list-style: none;
  margin: 0;
  padding: 0;
}
li {
  display: grid;
  grid-template-columns: 170px minmax(0, 1fr) auto;
  gap: 12px;
  padding: 8px 14px;
  align-items: start;
}
li + li {
  border-top: 1px solid var(--warp);
}
.head,
.change {
  display: grid;
}
.change {
  display: block;
  overflow-wrap: anywhere;
}
</style>
