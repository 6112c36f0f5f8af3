<script setup lang="ts">
import type { Difference, SnapshotDifference } from '@/shared/api/types'
import { cells } from '@/areas/evidence/resultWords'
import { text } from '@/shared/text'
import { whyWords } from './facetWords'

/** Which results entered, left or changed since a pool was frozen. */
defineProps<{ of: SnapshotDifference }>()

const words = text.pool.snapshot
function said(difference: Difference): string {
  switch (difference.code) {
    case 'entered':
      return cells(difference.now)
    case 'left':
      return difference.why ? whyWords(difference.why) : words.gone
    case 'changed':
      return `${cells(difference.before)} → ${cells(difference.now)}`
  }
}
</script>

<template>
  <ul class="changes" data-test="changes">
    <li v-for="difference in of.differences" :key="difference.result">
      <b dir="auto">{{ difference.report }}</b> {{ words.happened[difference.code] }}: {{ said(difference) }}
    </li>
  </ul>
</template>

<style scoped>
.changes {
  margin: 6px 0 12px;
  padding-left: 1.2em;
}
</style>
