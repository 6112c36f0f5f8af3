<script setup lang="ts">
import type { Ref } from 'vue'

import { text } from '@/shared/text'
import StateNotice from './StateNotice.vue'

/** What could not be fetched, why, and the way to try again; other ways out come in the slot. */
defineProps<{ query: { error: Ref<Error | null>; refetch: () => unknown }; title: string }>()
</script>

<template>
  <StateNotice tone="error" :title="title" :detail="query.error.value?.message">
    <v-btn @click="query.refetch()">{{ text.layout.retry }}</v-btn>
    <slot />
  </StateNotice>
</template>
