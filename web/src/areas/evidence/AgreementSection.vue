<script setup lang="ts">
import { mdiPlus } from '@mdi/js'
import { computed, defineAsyncComponent, ref } from 'vue'

import { useAgreements } from '@/shared/api/queries'
import type { AgreementView } from '@/shared/api/types'
import SampleMark from '@/shared/layout/SampleMark.vue'
import StateNotice from '@/shared/layout/StateNotice.vue'
import WaitLine from '@/shared/layout/WaitLine.vue'
import { may } from '@/shared/session/session'
import { text } from '@/shared/text'
import { useAsked } from '@/shared/useAsked'
import { useShortcuts } from '@/shared/useShortcuts'
import { removeAgreement } from './agreementActions'
import AgreementTable from './AgreementTable.vue'

/** How far examiners, or occasions, agree on a test. */
const AgreementDialog = defineAsyncComponent(() => import('./AgreementDialog.vue'))
const props = defineProps<{ testId: string }>()

const agreements = useAgreements(() => props.testId)
const rows = computed(() => agreements.data.value ?? [])
const open = ref(false)
const asked = useAsked(() => open.value)
const editing = ref<AgreementView | null>(null)
function show(view: AgreementView | null) {
  editing.value = view
  open.value = true
}
useShortcuts({ r: () => may('write_studies') && show(null) })
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
        @click="show(null)"
      >
        {{ text.agreement.add }}
      </v-btn>
    </header>
    <StateNotice
      v-if="agreements.isError.value && !rows.length"
      tone="error"
      :title="text.agreement.failed"
      :detail="agreements.error.value?.message"
    >
      <v-btn @click="agreements.refetch()">{{ text.layout.retry }}</v-btn>
    </StateNotice>
    <WaitLine v-else-if="agreements.isPending.value" />
    <p v-else-if="!rows.length" class="muted small">{{ text.agreement.none }}</p>
    <AgreementTable
      v-else
      :agreements="rows"
      :editable="may('write_studies')"
      @edit="show"
      @remove="removeAgreement($event)"
    />
    <AgreementDialog v-if="asked" v-model:open="open" :test-id="testId" :agreement="editing" />
  </section>
</template>

<style scoped>
.agreement {
  margin-top: 30px;
}
header {
  display: flex;
  align-items: center;
  justify-content: space-between;
  gap: 16px;
  margin-bottom: 8px;
}
</style>
