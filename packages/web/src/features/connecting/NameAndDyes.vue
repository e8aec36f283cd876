<script setup lang="ts">
import { Input } from 'ant-design-vue'
import { computed } from 'vue'
import ChooseOne from '../../ui/ChooseOne.vue'
import { DYES, type IntakeForm, type Member, type Offered } from './intake-form.ts'

/** What it is called here, whose it is, and the dye of each list and calendar. */
const props = defineProps<{ offered: Offered[]; members: Member[] }>()
const form = defineModel<IntakeForm>({ required: true })

const chosen = computed(() => props.offered.filter(o => form.value.takesPart.includes(o.remoteId)))
const set = (part: Partial<IntakeForm>): void => void (form.value = { ...form.value, ...part })
/** A service's own colour is kept among the choices until another is taken. */
const dyes = (now: string | undefined) =>
  !now || DYES.some(d => d.value === now) ? DYES : [{ value: now, label: 'its own' }, ...DYES]
</script>

<template>
  <div>
    <div class="pair">
      <label>
        Call it
        <Input :value="form.name" :maxlength="100" @update:value="name => set({ name: String(name) })" />
      </label>
      <label>
        It belongs to
        <ChooseOne
          :model-value="form.ownerId"
          name="It belongs to"
          :options="members.map(m => ({ value: m.id, label: m.name }))"
          none="the whole team"
          @update:model-value="ownerId => set({ ownerId })"
        />
      </label>
    </div>
    <ul>
      <li v-for="o in chosen" :key="o.remoteId">
        <span class="dye" :style="{ background: form.dyes[o.remoteId] }" />
        <span class="name">{{ o.name }}</span>
        <ChooseOne
          :model-value="form.dyes[o.remoteId] ?? null"
          :name="`Dye of ${o.name}`"
          :options="dyes(form.dyes[o.remoteId])"
          @update:model-value="d => d && set({ dyes: { ...form.dyes, [o.remoteId]: d } })"
        />
      </li>
    </ul>
  </div>
</template>

<style scoped>
.pair {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(220px, 1fr));
  gap: 12px;
  max-width: 640px;
  margin-bottom: 12px;
}
.pair label {
  display: grid;
  gap: 4px;
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(300px, 1fr));
  gap: 6px 24px;
}
li {
  display: flex;
  align-items: center;
  gap: 9px;
  min-width: 0;
}
.dye {
  height: 18px;
}
.name {
  flex: 1;
  min-width: 0;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
@media (max-width: 480px) {
  ul {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
