<script setup lang="ts">
import StateNotice from '@/shared/layout/StateNotice.vue'
import { text } from '@/shared/text'
</script>

<template>
  <StateNotice :title="text.layout.lost" :detail="text.layout.lostDetail">
    <v-btn :to="{ name: 'catalogue' }">{{ text.layout.toCatalogue }}</v-btn>
  </StateNotice>
</template>
