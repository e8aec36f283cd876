<script setup lang="ts">
import { ConfigProvider } from 'ant-design-vue'
import { antTheme } from './theme.ts'
import MessageStack from './MessageStack.vue'
</script>

<template>
  <ConfigProvider :theme="antTheme">
    <RouterView />
    <MessageStack />
  </ConfigProvider>
</template>
