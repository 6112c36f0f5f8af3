<script setup lang="ts">
import type { UseQueryReturnType } from '@tanstack/vue-query'

import type { PooledAnswer } from '@/shared/api/types'
import FailureNotice from '@/shared/layout/FailureNotice.vue'
import { useQuestion } from '@/shared/question/useQuestion'
import { text } from '@/shared/text'
import PooledFigures from './PooledFigures.vue'
import SnapshotList from './SnapshotList.vue'
import { uninterpretableWords } from './words'

/** The pooled answer of a test on its sheet. */
defineProps<{ query: UseQueryReturnType<PooledAnswer, Error>; testId: string }>()

const { carried } = useQuestion()
</script>

<template>
  <FailureNotice v-if="query.isError.value && !query.data.value" :query="query" :title="text.pooled.failed" />
  <template v-else-if="query.data.value?.pooled">
    <p v-if="query.data.value.standing === 'earlier'" class="small" role="status">
      {{ text.pooled.earlier }}
    </p>
    <PooledFigures :pooled="query.data.value.pooled" :sample="query.data.value.sample" />
    <p v-if="query.data.value.uninterpretable.tests" class="small" data-test="uninterpretable">
      {{ uninterpretableWords(query.data.value.uninterpretable) }}
    </p>
    <p class="small no-print">
      <router-link
        :to="{ name: 'pooling', query: { ...carried, tests: testId } }"
        class="alone"
        data-test="open-pool"
        >{{ text.pool.open }}</router-link
      >
    </p>
    <SnapshotList class="frozen" :test="testId" />
  </template>
</template>

<style scoped>
.frozen {
  margin: 14px 0;
}
</style>
