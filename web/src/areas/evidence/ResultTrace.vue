<script setup lang="ts">
import { computed } from 'vue'

import type { ResultView } from '@/shared/api/types'
import { day } from '@/shared/format'
import { useQuestion } from '@/shared/question/useQuestion'
import { text } from '@/shared/text'

/** Where a result comes from: what the report prints where, and who read, entered or settled it. */
const props = defineProps<{ result: ResultView }>()

const words = text.extraction.trace
const { carried } = useQuestion()
const double = computed(() => props.result.trace?.double)
const said = computed(() => {
  const { trace } = props.result
  if (!trace) return ''
  if (!trace.double) return words.entered(trace.entered_by ?? null, day(trace.entered_at))
  return trace.double.settled_at ? words.settled(trace.double.settled_by ?? text.extraction.file) : words.open
})
</script>

<template>
  <span v-if="result.page || said" class="trace" dir="auto" data-test="trace">
    {{ result.page }}<template v-if="result.page && said"> · </template>
    <router-link
      v-if="double"
      :to="{ name: 'extraction', params: { extraction: double.id }, query: carried }"
      >{{ said }}</router-link
    >
    <template v-else>{{ said }}</template>
  </span>
</template>
