<script setup lang="ts">
import { computed } from 'vue'
import { useInvitations, isOpen } from '../../stores/invitations.ts'
import InvitationCard from './InvitationCard.vue'

/** Invitations that came by mail: what they would meet of the plan, and one's answers. */
const { all, isThere, trouble, mails, say, putAway } = useInvitations()
const startOf = ({ when }: (typeof all.value)[number]): string =>
  when && 'fromMs' in when ? new Date(when.fromMs).toISOString() : (when?.day ?? '')
const groups = computed(() => {
  const sorted = [...all.value].sort((x, y) => startOf(x).localeCompare(startOf(y)))
  const parts = [
    { name: 'To be answered', those: sorted.filter(isOpen) },
    { name: 'Nothing to answer', those: sorted.filter(i => !isOpen(i)) },
  ]
  return parts.filter(p => p.those.length > 0)
})
</script>

<template>
  <main class="page">
    <div class="page-head">
      <h1>Invitations</h1>
      <span class="quiet"
        >They came to your intake address. What you may come to stands in Own events, where your team sees
        it.</span
      >
    </div>
    <p v-if="trouble" class="sheet part wrong" role="alert">{{ trouble }}</p>
    <div v-else-if="isThere && all.length === 0" class="sheet part">
      <h2>None so far</h2>
      <p>
        Forward an invitation from your mail, or give your intake address to whoever invites: it is under
        <RouterLink to="/connections">Connections</RouterLink>. Here you see what it would meet of your plan,
        and answer it; whoever invites is told by mail.
      </p>
    </div>
    <p v-if="!mails && all.length > 0" class="quiet">
      This server sends no mail: your answers stand in your plan, and nobody else is told of them.
    </p>
    <section v-for="g in groups" :key="g.name" :aria-label="g.name">
      <h2>{{ g.name }}</h2>
      <InvitationCard v-for="i in g.those" :key="i.id" :invitation="i" :say="say" :put-away="putAway" />
    </section>
  </main>
</template>

<style scoped>
.part {
  padding: 14px 18px;
}
h2 {
  font-size: 16px;
  margin: 14px 0 8px;
}
.part h2 {
  margin-top: 0;
}
.part p {
  margin: 0;
  max-width: 68ch;
}
</style>
