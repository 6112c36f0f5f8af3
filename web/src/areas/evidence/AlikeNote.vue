<script setup lang="ts">
import { computed } from 'vue'

import type { ReferenceInput } from '@/shared/api/types'
import { text } from '@/shared/text'
import { findAlike } from './referenceActions'
import { useLiveAnswer } from '@/shared/useLiveAnswer'

/** Names the stored references that may be the same work, while one is typed. */
const props = defineProps<{ reference: ReferenceInput; except?: string }>()

const asked = computed(() => props.reference)
const { answer } = useLiveAnswer(
  asked,
  ({ title, doi, pmid }) => (title ?? '').trim().length > 8 || !!(title && (doi || pmid)),
  (reference, signal) => findAlike(reference, signal, props.except),
)
</script>

<template>
  <div aria-live="polite" data-test="alike">
    <template v-if="answer?.length">
      <p class="small strong">{{ text.references.alike }}</p>
      <ul class="small">
        <li v-for="one in answer.slice(0, 3)" :key="one.id" class="wrap-anywhere">
          {{ one.citation }} <span class="muted">({{ text.references.because[one.likeness.because] }})</span>
        </li>
      </ul>
    </template>
  </div>
</template>

<style scoped>
.strong {
  font-weight: 600;
}
ul {
  padding-left: 1.2em;
}
</style>
