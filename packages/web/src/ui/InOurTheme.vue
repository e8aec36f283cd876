<script setup lang="ts">
import { ConfigProvider } from 'ant-design-vue'
import { antTheme } from './ant-theme.ts'
</script>

<template>
  <ConfigProvider :theme="antTheme"><slot /></ConfigProvider>
</template>
