<script setup lang="ts">
import { mdiPlus } from '@mdi/js'
import { computed, defineAsyncComponent } from 'vue'

import { useAgreements } from '@/shared/api/queries'
import type { AgreementView, StudyView } from '@/shared/api/types'
import FailureNotice from '@/shared/layout/FailureNotice.vue'
import SampleMark from '@/shared/layout/SampleMark.vue'
import WaitLine from '@/shared/layout/WaitLine.vue'
import { may } from '@/shared/session/session'
import { text } from '@/shared/text'
import { useShortcuts } from '@/shared/useShortcuts'
import { useShown } from '@/shared/useShown'
import { removeAgreement } from './agreementActions'
import AgreementTable from './AgreementTable.vue'
import AppraisalSummary from './AppraisalSummary.vue'

/** How far examiners, or occasions, agree on a test. */
const AppraisalDialog = defineAsyncComponent(() => import('./AppraisalDialog.vue'))
const AgreementDialog = defineAsyncComponent(() => import('./AgreementDialog.vue'))
const props = defineProps<{ testId: string }>()

const agreements = useAgreements(() => props.testId)
const rows = computed(() => agreements.data.value ?? [])
const editing = useShown<AgreementView>()
const judging = useShown<StudyView>()
useShortcuts({ r: () => may('write_studies') && editing.show(null) })
</script>

<template>
  <section class="agreement" data-test="agreement">
    <header>
      <h2>{{ text.agreement.title }} <SampleMark v-if="rows.some((row) => row.sample)" /></h2>
      <v-btn
        v-if="may('write_studies')"
        class="no-print"
        :prepend-icon="mdiPlus"
        data-test="add-agreement"
        @click="editing.show(null)"
      >
        {{ text.agreement.add }}
      </v-btn>
    </header>
    <FailureNotice
      v-if="agreements.isError.value && !rows.length"
      :query="agreements"
      :title="text.agreement.failed"
    />
    <WaitLine v-else-if="agreements.isPending.value" />
    <p v-else-if="!rows.length" class="muted small">{{ text.agreement.none }}</p>
    <AgreementTable
      v-else
      :agreements="rows"
      :editable="may('write_studies')"
      @appraise="judging.show"
      @edit="editing.show"
      @remove="removeAgreement($event)"
    />
    <AppraisalSummary aspect="agreement" :studies="rows.map((row) => row.study)" />
    <AppraisalDialog
      v-if="judging.shown.value"
      v-model:open="judging.open.value"
      :study="judging.shown.value"
      aspect="agreement"
    />
    <AgreementDialog
      v-if="editing.asked.value"
      v-model:open="editing.open.value"
      :test-id="testId"
      :agreement="editing.shown.value"
    />
  </section>
</template>

<style scoped>
.agreement {
  margin-top: 30px;
}
header {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  justify-content: space-between;
  gap: 16px;
  margin-bottom: 8px;
}
</style>
