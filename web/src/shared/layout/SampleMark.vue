<script setup lang="ts">
import { text } from '@/shared/text'
</script>

<template>
  <span class="sample-mark" :title="text.sampleWhy">{{ text.sample }}</span>
</template>

<style scoped>
.sample-mark {
  display: inline-block;
  padding: 0 7px;
  border: 1px dashed currentColor;
  border-radius: 3px;
  color: rgb(var(--v-theme-sample));
  font-family: var(--font-text);
  font-size: 0.72rem;
  font-weight: 600;
  line-height: 1.5;
  white-space: nowrap;
}
</style>
