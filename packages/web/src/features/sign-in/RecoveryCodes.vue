<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { say } from '../../stores/messages.ts'

/** Shown once: only their hashes are kept. */
const props = defineProps<{ codes: readonly string[] }>()
const emit = defineEmits<{ done: [] }>()
async function copy(): Promise<void> {
  await navigator.clipboard.writeText(props.codes.join('\n'))
  say({ text: 'Copied.' })
}
</script>

<template>
  <div class="recovery" role="status">
    <p>
      <b>Codes are on.</b> Keep these for the day your telephone is lost: each opens your account once, and
      they are shown only now.
    </p>
    <ul>
      <li v-for="c in codes" :key="c">
        <code>{{ c }}</code>
      </li>
    </ul>
    <span class="acts">
      <Button @click="copy">Copy them</Button>
      <Button type="primary" @click="emit('done')">I have kept them</Button>
    </span>
  </div>
</template>

<style scoped>
.recovery {
  display: grid;
  gap: 10px;
  padding: 12px 14px;
  background: var(--amber-wash);
}
p {
  margin: 0;
}
ul {
  display: grid;
  grid-template-columns: repeat(2, max-content);
  gap: 4px 28px;
  margin: 0;
  padding: 0;
  list-style: none;
}
.acts {
  display: flex;
  gap: 8px;
}
</style>
