<script setup lang="ts">
import MessageStack from './MessageStack.vue'
</script>

<template>
  <RouterView />
  <MessageStack />
</template>
