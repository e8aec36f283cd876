<script setup lang="ts">
/** The pages of one matter, with what waits on each. */
defineProps<{ name: string; pages: readonly { to: string; name: string; n?: number }[] }>()
</script>

<template>
  <nav :aria-label="name">
    <RouterLink v-for="p in pages" :key="p.to" :to="p.to" exact-active-class="here"
      >{{ p.name }} <span v-if="p.n" class="n">{{ p.n }}</span></RouterLink
    >
  </nav>
</template>

<style scoped>
nav {
  display: flex;
  flex-wrap: wrap;
  gap: 4px;
  margin-bottom: 12px;
  border-bottom: 1px solid var(--warp);
}
a {
  padding: 5px 10px;
  color: inherit;
  text-decoration: none;
  border-bottom: 3px solid transparent;
}
a:hover {
  border-color: var(--warp-strong);
}
.here {
  border-color: var(--amber);
  font-weight: 700;
}
.n {
  padding: 0 6px;
  border-radius: 2px;
  background: var(--clay-wash);
  color: var(--clay);
}
</style>
