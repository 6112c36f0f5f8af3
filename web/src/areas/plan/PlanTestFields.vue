<script setup lang="ts">
import { computed } from 'vue'

import type { PlannedTestView } from '@/shared/api/types'
import { text } from '@/shared/text'
import type { PlanTest } from './planDraft'

/** What an author says of a test of the plan: its variant, why it is there, and wishes for its place. */
const test = defineModel<PlanTest>({ required: true })
const props = defineProps<{
  said: PlannedTestView | null
  name: string
  /** The other tests of the plan. */
  others: { value: string; title: string }[]
  of: (field: string) => string[]
}>()

const words = text.plan.list
const variants = computed(() => [
  { value: '', title: words.taught },
  ...(props.said?.variants ?? []).map((name) => ({ value: name, title: name })),
])
const set = (change: Partial<PlanTest>) => (test.value = { ...test.value, ...change })
const faulty = computed(() => ['test', 'variant', 'after'].some((field) => props.of(field).length > 0))
</script>

<template>
  <details class="no-print" :open="faulty || undefined" data-test="planned-more">
    <summary class="small" :aria-label="words.moreOf(name)">{{ words.more }}</summary>
    <p v-for="fault in of('test')" :key="fault" class="failure small">{{ fault }}</p>
    <div class="fields">
      <v-text-field
        :model-value="test.reason"
        :label="words.reason"
        density="compact"
        hide-details
        data-test="planned-reason"
        @update:model-value="set({ reason: $event })"
      />
      <v-select
        :model-value="test.variant"
        :items="variants"
        :label="words.variant"
        :error-messages="of('variant')"
        density="compact"
        hide-details="auto"
        data-test="planned-variant"
        @update:model-value="set({ variant: $event })"
      />
      <v-select
        :model-value="test.after"
        :items="others"
        :label="words.after"
        :error-messages="of('after')"
        multiple
        density="compact"
        hide-details="auto"
        data-test="planned-after"
        @update:model-value="set({ after: $event })"
      />
      <v-checkbox
        :model-value="test.keep_last"
        :label="words.last"
        density="compact"
        hide-details
        data-test="planned-last"
        @update:model-value="set({ keep_last: !!$event })"
      />
      <v-checkbox
        :model-value="test.optional"
        :label="words.optional"
        density="compact"
        hide-details
        data-test="planned-optional"
        @update:model-value="set({ optional: !!$event })"
      />
    </div>
  </details>
</template>

<style scoped>
.fields {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(200px, 1fr));
  gap: 8px;
  padding: 6px 0;
}
@media screen and (max-width: 600px) {
  summary {
    padding: 12px 0;
  }
}
</style>
