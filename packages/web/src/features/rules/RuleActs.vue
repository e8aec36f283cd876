<script setup lang="ts">
import { PhDotsThreeOutline } from '@phosphor-icons/vue'
import { Button, Dropdown, Menu, MenuItem, Modal } from 'ant-design-vue'
import { useRouter } from 'vue-router'
import { answer, api } from '../../api/client.ts'
import { say } from '../../stores/messages.ts'
import { askedWords } from '../team/asks.ts'
import { saveAs } from '../files/save-as.ts'
import type { RuleView } from './use-rules.ts'

/** What can be done with a rule as a whole. */
const props = defineProps<{ rule: RuleView }>()
const versions = defineModel<boolean>('versions', { required: true })
const emit = defineEmits<{ removed: [] }>()
const router = useRouter()

async function setState(state: 'on' | 'paused'): Promise<void> {
  const done = await answer(() =>
    api.rules[':id'].state.$put({ param: { id: props.rule.id }, json: { state } }),
  )
  if ('reason' in done) say({ text: askedWords(done.asked) })
  else
    say({
      text: state === 'on' ? 'The rule is on again.' : 'The rule is paused. Both sides stay as they are.',
    })
}

async function writeOut(): Promise<void> {
  const r = props.rule
  const paper = await answer(() => api.rules[':id'].paper.$get({ param: { id: r.id } }))
  saveAs(`${r.name}.json`, JSON.stringify(paper, null, 2), 'application/json')
}

function remove(): void {
  const r = props.rule
  Modal.confirm({
    title: 'Remove this rule?',
    content: `The ${r.ties} tied items stay where they are, on both sides, but are no longer kept in step. The journal stays.`,
    okText: 'Remove the rule',
    cancelText: 'Cancel',
    okType: 'danger',
    onOk: async () => {
      await answer(() => api.rules[':id'].$delete({ param: { id: r.id } }))
      emit('removed')
    },
  })
}
</script>

<template>
  <RouterLink :to="{ name: 'journal', query: { rule: rule.id } }">What it wrote</RouterLink>
  <Button @click="setState(rule.state === 'on' ? 'paused' : 'on')">{{
    rule.state === 'on' ? 'Pause' : 'Resume'
  }}</Button>
  <Dropdown :trigger="['click']">
    <Button class="with-icon" aria-label="More for this rule"><PhDotsThreeOutline :size="16" /></Button>
    <template #overlay>
      <Menu>
        <MenuItem key="versions" @click="versions = !versions">{{
          versions ? 'Hide its versions' : 'Its versions'
        }}</MenuItem>
        <MenuItem key="copy" @click="router.push({ path: '/rules/new', query: { copy: rule.id } })"
          >Copy to another pair</MenuItem
        >
        <MenuItem key="out" @click="writeOut">Write it out as a file</MenuItem>
        <MenuItem key="remove" danger @click="remove">Remove</MenuItem>
      </Menu>
    </template>
  </Dropdown>
</template>
