<script setup lang="ts">
import { mdiCheck, mdiHistory } from '@mdi/js'

import { text } from '@/shared/text'

/** Whether the evidence is still what was frozen. */
defineProps<{ stale: boolean }>()
</script>

<template>
  <span class="mark small" :class="{ stale }" data-test="stale-mark">
    <v-icon :icon="stale ? mdiHistory : mdiCheck" size="16" aria-hidden="true" />
    {{ stale ? text.pool.snapshot.stale : text.pool.snapshot.current }}
  </span>
</template>

<style scoped>
.mark {
  color: var(--muted);
  white-space: nowrap;
}
.stale {
  color: rgb(var(--v-theme-error));
  font-weight: 600;
}
</style>
