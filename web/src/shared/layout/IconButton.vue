<script setup lang="ts">
/** A small button that is only a picture: its label is read aloud, and shown when the pointer rests on it. */
defineProps<{ icon: string; label: string; hint?: string }>()
</script>

<template>
  <v-btn :icon="icon" size="x-small" variant="text" :aria-label="label" :title="hint ?? label" />
</template>
