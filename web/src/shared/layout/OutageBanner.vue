<script setup lang="ts">
import { outage } from '@/shared/outage'
import { text } from '@/shared/text'
</script>

<template>
  <div v-if="outage.cause" class="outage" role="alert">
    <strong>{{ outage.cause === 'database' ? text.outage.databaseTitle : text.outage.serverTitle }}</strong>
    <span>{{ text.outage.nothingLost }}</span>
    <v-progress-circular indeterminate size="16" width="2" />
  </div>
</template>

<style scoped>
.outage {
  position: sticky;
  top: 0;
  z-index: 20;
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 4px 14px;
  padding: 10px 20px;
  border-bottom: 2px solid rgb(var(--v-theme-error));
  background: rgb(var(--v-theme-surface));
}
</style>
