<script setup lang="ts">
import { computed } from 'vue'

import { text } from '@/shared/text'

/** Through the pages of a long list; nothing while it fits on one. */
const page = defineModel<number>({ required: true })
const props = defineProps<{ size: number; shown: number; total: number; label: string }>()

const offset = computed(() => page.value * props.size)
</script>

<template>
  <nav v-if="total > size" class="pages no-print" :aria-label="label">
    <v-btn :disabled="!page" @click="page -= 1">{{ text.layout.earlier }}</v-btn>
    <span>{{ text.layout.page(offset + 1, offset + shown, total) }}</span>
    <v-btn :disabled="offset + size >= total" @click="page += 1">{{ text.layout.later }}</v-btn>
  </nav>
</template>

<style scoped>
.pages {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 10px;
}
</style>
