<script setup lang="ts">
import DOMPurify from 'dompurify'
import MarkdownIt from 'markdown-it'
import { Button, Input } from 'ant-design-vue'
import { computed, ref, watch } from 'vue'

/** Notes, drawn as Markdown; what comes from a service is text, never markup of its own. */
const props = defineProps<{ text: string; locked: string }>()
const emit = defineEmits<{ save: [text: string] }>()

const markdown = new MarkdownIt({ html: false, linkify: true, breaks: true }).disable('image')
const drawn = computed(() =>
  DOMPurify.sanitize(markdown.render(props.text), {
    ALLOWED_URI_REGEXP: /^(?:https?|mailto):/i,
    FORBID_TAGS: ['style', 'img'],
  }),
)
const editing = ref(false)
const given = ref(props.text)
watch(
  () => props.text,
  (now, before) => {
    if (!editing.value || given.value === before) given.value = now
  },
)
function done(): void {
  editing.value = false
  if (given.value !== props.text) emit('save', given.value)
}
</script>

<template>
  <section aria-label="Notes">
    <h3>Notes</h3>
    <template v-if="editing">
      <Input.TextArea
        v-model:value="given"
        :auto-size="{ minRows: 4, maxRows: 14 }"
        aria-label="Notes"
        @keydown.ctrl.enter="done"
        @keydown.esc.stop="((editing = false), (given = text))"
      />
      <div class="foot">
        <Button type="primary" size="small" @click="done">Save</Button>
        <Button size="small" @click="((editing = false), (given = text))">Cancel</Button>
      </div>
    </template>
    <template v-else>
      <!-- eslint-disable-next-line vue/no-v-html -- sanitized above -->
      <div v-if="text" class="notes" v-html="drawn" />
      <p v-else class="quiet">None.</p>
      <Button v-if="!locked" size="small" @click="((editing = true), (given = text))">
        {{ text ? 'Edit notes' : 'Write notes' }}
      </Button>
    </template>
  </section>
</template>

<style scoped>
h3 {
  margin: 16px 0 6px;
}
.notes {
  overflow-wrap: anywhere;
}
.notes :deep(p) {
  margin: 0 0 8px;
}
.foot {
  display: flex;
  gap: 8px;
  margin-top: 6px;
}
</style>
