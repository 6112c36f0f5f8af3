<script setup lang="ts">
import { computed, ref } from 'vue'

import { useReaderAgreement } from '@/shared/api/queries'
import type { Region } from '@/shared/api/types'
import { coefficient, coefficientInterval, percentInterval, percentPoint } from '@/shared/format'
import WaitLine from '@/shared/layout/WaitLine.vue'
import { text } from '@/shared/text'
import { fieldLabel } from './extractionWords'

/** How well two readers agree, field by field; asked for when somebody opens it. */
const props = defineProps<{ region?: Region }>()

const words = text.extraction
const open = ref(false)
const agreement = useReaderAgreement(() => props.region, open)
const fields = computed(() => (agreement.data.value?.fields ?? []).filter((it) => it.n > 0))
</script>

<template>
  <details
    class="agreement"
    data-test="reader-agreement"
    @toggle="open = ($event.target as HTMLDetailsElement).open"
  >
    <summary>{{ words.agreement }}</summary>
    <p class="small muted">{{ words.agreementAbout }}</p>
    <WaitLine v-if="agreement.isFetching.value" />
    <p v-if="agreement.data.value && !agreement.data.value.n">{{ words.noneYet }}</p>
    <template v-else-if="agreement.data.value?.share">
      <p data-test="overall-agreement">
        {{ words.sameOf(agreement.data.value.same, agreement.data.value.compared) }}
        {{ percentPoint(agreement.data.value.share) }}
        ({{ percentInterval(agreement.data.value.share) }})
      </p>
      <table class="plain-table small">
        <thead>
          <tr>
            <th scope="col">{{ words.field }}</th>
            <th scope="col" class="numeric">{{ words.agreed }}</th>
            <th scope="col" class="numeric">{{ words.kappa }}</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="field in fields" :key="field.field">
            <th scope="row">{{ fieldLabel(field.field) }}</th>
            <td class="numeric">{{ text.study.people(field.same, field.n) }}</td>
            <td class="numeric">
              <template v-if="field.choices?.kappa">
                {{ coefficient(field.choices.kappa.value.estimate) }}
                <span class="muted">({{ coefficientInterval(field.choices.kappa.value) }})</span>
              </template>
              <span v-else-if="field.kind === 'choice'" class="muted">{{ words.noKappa }}</span>
            </td>
          </tr>
        </tbody>
      </table>
    </template>
  </details>
</template>

<style scoped>
.agreement {
  margin: 26px 0;
}
summary {
  font-weight: 600;
}
table {
  max-width: 640px;
}
th {
  font-weight: 400;
}
</style>
