<script setup lang="ts">
import MessageStack from '../ui/MessageStack.vue'
</script>

<template>
  <RouterView />
  <MessageStack />
</template>
