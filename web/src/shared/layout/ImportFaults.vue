<script setup lang="ts">
import type { FieldError } from '@/shared/api/types'
import { text } from '@/shared/text'
import FaultTable from './FaultTable.vue'

/** Why a file did not come in: one sentence, or everything that is wrong with it. */
defineProps<{ failure: string; faults: FieldError[]; test: string }>()
</script>

<template>
  <div aria-live="polite">
    <p v-if="failure || faults.length" role="alert" class="failure" :data-test="`${test}-failure`">
      {{ failure || text.exchange.faults(faults.length) }}
    </p>
    <FaultTable v-if="faults.length" :faults="faults" :data-test="`${test}-faults`" />
    <slot />
  </div>
</template>
