<script setup lang="ts">
import { Button, Checkbox, Form, FormItem, Input } from 'ant-design-vue'
import { ref } from 'vue'

/** The account that was found: which of its collections take part, and what it is called here. */
interface Account {
  name: string
  collections: {
    remoteId: string
    name: string
    holds: 'task' | 'event'
    writable: boolean
    count: number | null
  }[]
}

const props = defineProps<{
  account: Account
  who: string
  suggestion: string
  busy: boolean
  reason: string
}>()
const emit = defineEmits<{ back: []; keep: [name: string, takesPart: string[]] }>()

const name = ref(props.suggestion)
const chosen = ref(props.account.collections.map(c => c.remoteId))

function toggle(id: string): void {
  chosen.value = chosen.value.includes(id) ? chosen.value.filter(x => x !== id) : [...chosen.value, id]
}
const facts = (c: Account['collections'][number]): string =>
  [
    c.holds === 'task' ? 'task list' : 'calendar',
    c.count === null ? '' : `${c.count} open`,
    c.writable ? '' : 'read only',
  ]
    .filter(Boolean)
    .join(', ')
</script>

<template>
  <Form layout="vertical" :model="{ name }" @finish="emit('keep', name.trim(), chosen)">
    <p>
      Signed in as <strong>{{ account.name || who }}</strong>. Choose what takes part; the rest stays where it
      is and can be added later.
    </p>
    <ul class="found">
      <li v-for="c in account.collections" :key="c.remoteId">
        <Checkbox :checked="chosen.includes(c.remoteId)" @change="toggle(c.remoteId)">{{ c.name }}</Checkbox>
        <span class="quiet">{{ facts(c) }}</span>
      </li>
    </ul>
    <p v-if="account.collections.length === 0" class="quiet">
      This account holds no calendar or list that we could read.
    </p>
    <FormItem label="Call it"><Input v-model:value="name" aria-label="Call it" :maxlength="100" /></FormItem>
    <p v-if="reason" class="reason" role="alert">{{ reason }} Nothing was kept.</p>
    <div class="foot">
      <Button @click="emit('back')">Back</Button>
      <Button type="primary" html-type="submit" :loading="busy" :disabled="!name.trim()"
        >Connect {{ chosen.length }} of {{ account.collections.length }}</Button
      >
    </div>
  </Form>
</template>

<style scoped>
.found {
  list-style: none;
  padding: 0;
  margin: 0 0 16px;
  display: grid;
  gap: 6px;
  max-height: 40vh;
  overflow: auto;
}
.found li {
  display: flex;
  justify-content: space-between;
  gap: 12px;
}
.foot {
  display: flex;
  justify-content: flex-end;
  gap: 8px;
}
.reason {
  color: var(--clay);
}
</style>
