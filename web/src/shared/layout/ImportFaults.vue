<script setup lang="ts">
import type { FieldError } from '@/shared/api/types'
import { whole } from '@/shared/format'
import { text } from '@/shared/text'
import FaultTable from './FaultTable.vue'

/** Why a file did not come in: one sentence, or everything that is wrong with it. */
defineProps<{
  failure: string
  faults: FieldError[]
  /** How many there are, where not all of them are listed. */
  count?: number
  test: string
}>()
</script>

<template>
  <div aria-live="polite">
    <p v-if="failure || faults.length" role="alert" class="failure" :data-test="`${test}-failure`">
      {{ failure || text.exchange.faults(whole(Math.max(faults.length, count ?? 0))) }}
    </p>
    <p v-if="count && count > faults.length && faults.length" class="small">
      {{ text.importRun.firstOf(whole(faults.length)) }}
    </p>
    <FaultTable v-if="faults.length" :faults="faults" :data-test="`${test}-faults`" />
    <slot />
  </div>
</template>
