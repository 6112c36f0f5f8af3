<script setup lang="ts">
import type { UseQueryReturnType } from '@tanstack/vue-query'

import type { PooledAnswer } from '@/shared/api/types'
import StateNotice from '@/shared/layout/StateNotice.vue'
import { useQuestion } from '@/shared/question/useQuestion'
import { text } from '@/shared/text'
import PooledFigures from './PooledFigures.vue'
import SnapshotList from './SnapshotList.vue'

/** The pooled answer of a test on its sheet. */
defineProps<{ query: UseQueryReturnType<PooledAnswer, Error>; testId: string }>()

const { carried } = useQuestion()
</script>

<template>
  <StateNotice
    v-if="query.isError.value && !query.data.value"
    tone="error"
    :title="text.pooled.failed"
    :detail="query.error.value?.message"
  >
    <v-btn @click="query.refetch()">{{ text.layout.retry }}</v-btn>
  </StateNotice>
  <template v-else-if="query.data.value?.pooled">
    <PooledFigures :pooled="query.data.value.pooled" :sample="query.data.value.sample" />
    <p class="small no-print">
      <router-link :to="{ name: 'pooling', query: { ...carried, tests: testId } }" data-test="open-pool">{{
        text.pool.open
      }}</router-link>
    </p>
    <SnapshotList class="frozen" :test="testId" />
  </template>
</template>

<style scoped>
.frozen {
  margin: 14px 0;
}
</style>
