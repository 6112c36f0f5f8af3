<script setup lang="ts">
import { text } from '@/shared/text'
</script>

<template>
  <p class="caution small muted" role="note">{{ text.caution }}</p>
</template>

<style scoped>
.caution {
  margin-top: 12px;
  max-width: 110ch;
}
</style>
