<script setup lang="ts">
import { refDebounced } from '@vueuse/core'
import { computed, ref, toRef } from 'vue'

import { label } from '@/areas/evidence/resultWords'
import { usePoolReference } from '@/shared/api/queries'
import type { PoolInput, Pooled, ResultView, TestRow } from '@/shared/api/types'
import FailureNotice from '@/shared/layout/FailureNotice.vue'
import WaitLine from '@/shared/layout/WaitLine.vue'
import { useAddress } from '@/shared/question/useAddress'
import { text } from '@/shared/text'
import ReferenceTable from './ReferenceTable.vue'
import { ENDS, NAMES, useReferenceErrors } from './useReferenceErrors'

/** What the summary, or one result, would be against the truth, if the reference standard errs as somebody states it. */
const props = defineProps<{
  input: PoolInput
  pooled: Pooled
  results: ResultView[]
  /** Tests of the region: the reference standard may be one of them. */
  tests: TestRow[]
}>()

const words = text.pool.referenceErrors
const { one, change } = useAddress()
const { errors, shown, set, takeFrom, refused } = useReferenceErrors()
/** The result that is corrected; empty for the summary. */
const result = computed(() => props.results.find(({ id }) => id === one('reference_of')) ?? null)
const objects = computed(() => [
  { value: '', title: words.summary },
  ...props.results.map((it) => ({ value: it.id, title: label(it) })),
])
const studied = computed(() =>
  props.tests.filter(
    ({ id, summary }) => !props.input.tests.includes(id) && summary?.sensitivity && summary.specificity,
  ),
)
const taken = ref<string | null>(null)
function take(id: string | null) {
  const test = studied.value.find((it) => it.id === id)
  if (test) takeFrom(test)
  // It says what the fields hold only until one of them is changed.
  taken.value = null
}
const body = computed(
  () =>
    errors.value && {
      pool: { ...props.input, by: null },
      ...(result.value && { result: result.value.id }),
      reference: errors.value,
    },
)
const asked = refDebounced(toRef(body), 250)
const found = usePoolReference(asked)
const corrected = computed(() => (asked.value && found.data.value?.corrected) || null)
</script>

<template>
  <details class="reference" :open="!!body" data-test="reference-errors">
    <summary>
      <h2>{{ words.title }}</h2>
    </summary>
    <p class="small about">{{ words.about }}</p>
    <div class="fields no-print">
      <fieldset v-for="name in NAMES" :key="name">
        <legend class="small">{{ words.of[name] }}</legend>
        <v-text-field
          v-for="(end, index) in ENDS"
          :key="end"
          :model-value="shown(name, index)"
          :label="words.ends[end]"
          suffix="%"
          inputmode="decimal"
          maxlength="6"
          :error-messages="refused(name, index)"
          :data-test="`reference-${name}-${end}`"
          @change="set(name, index, ($event.target as HTMLInputElement).value)"
        />
      </fieldset>
      <div class="choices">
        <v-select
          v-if="studied.length"
          :model-value="taken"
          :items="studied"
          item-title="name"
          item-value="id"
          :label="words.take"
          data-test="reference-take"
          @update:model-value="take"
        />
        <v-select
          v-if="results.length > 1"
          :model-value="result?.id ?? ''"
          :items="objects"
          :label="words.whose"
          data-test="reference-of"
          @update:model-value="change({ reference_of: $event || undefined })"
        />
      </div>
    </div>
    <WaitLine :active="!!body && found.isFetching.value" />
    <FailureNotice v-if="body && found.isError.value" :query="found" :title="text.pool.failed" />
    <ReferenceTable
      v-else-if="corrected"
      :found="result ? result.accuracy : pooled"
      :corrected="corrected"
      :of="result ? words.asReported : words.asPooled"
    />
    <p v-else-if="body && found.isSuccess.value" class="small">{{ words.oneGroup }}</p>
  </details>
</template>

<style scoped>
summary h2 {
  display: inline;
}
.about {
  max-width: 80ch;
  margin: 8px 0 12px;
}
.fields {
  display: flex;
  flex-wrap: wrap;
  align-items: end;
  gap: 10px 28px;
}
legend {
  margin-bottom: 10px;
}
fieldset {
  display: grid;
  grid-template-columns: repeat(3, 112px);
  gap: 4px 8px;
  margin: 0;
  padding: 0;
  border: 0;
}
.choices {
  display: grid;
  flex: 1 1 260px;
  grid-template-columns: repeat(auto-fit, minmax(200px, 1fr));
  gap: 8px;
}
@media (max-width: 420px) {
  fieldset {
    width: 100%;
    grid-template-columns: repeat(3, minmax(0, 1fr));
  }
}
</style>
