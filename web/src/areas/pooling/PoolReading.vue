<script setup lang="ts">
import { computed } from 'vue'

import type { Pooled, PoolReading } from '@/shared/api/types'
import { ratioPoint } from '@/shared/format'
import { text } from '@/shared/text'
import { readingWords } from './words'

/** What the numbers say, in sentences made from them. */
const props = defineProps<{ reading: PoolReading; pooled: Pooled }>()

const words = text.pool.reading
const sentences = computed(() =>
  readingWords(props.reading, {
    positive: props.pooled.lr_positive ? ratioPoint(props.pooled.lr_positive) : '',
    negative: props.pooled.lr_negative ? ratioPoint(props.pooled.lr_negative) : '',
  }),
)
</script>

<template>
  <section class="reading" data-test="reading" aria-live="polite">
    <p>
      <b>{{ sentences.worth }}</b> {{ sentences.spread }}
    </p>
    <ul v-if="sentences.limits.length" class="small">
      <li v-for="limit in sentences.limits" :key="limit">{{ limit }}</li>
    </ul>
    <p class="small muted">{{ words.bands }}</p>
  </section>
</template>

<style scoped>
.reading {
  margin: 14px 0;
  padding: 12px 16px;
  border-left: 3px solid rgb(var(--v-theme-primary));
  background: rgba(var(--v-theme-primary), 0.05);
}
ul {
  margin: 6px 0;
  padding-left: 1.2em;
}
</style>
