<script setup lang="ts">
import { mdiPlus } from '@mdi/js'
import { computed, defineAsyncComponent, ref } from 'vue'

import { useStudies } from '@/shared/api/queries'
import type { PooledAnswer, StudyView } from '@/shared/api/types'
import { whole } from '@/shared/format'
import SampleMark from '@/shared/layout/SampleMark.vue'
import StateNotice from '@/shared/layout/StateNotice.vue'
import WaitLine from '@/shared/layout/WaitLine.vue'
import { may } from '@/shared/session/session'
import { text } from '@/shared/text'
import { useAsked } from '@/shared/useAsked'
import { useShortcuts } from '@/shared/useShortcuts'
import StudyForest from './StudyForest.vue'
import { removeStudy } from './studyActions'

// Who reads must not wait for the form.
const StudyDialog = defineAsyncComponent(() => import('./StudyDialog.vue'))
const props = defineProps<{ testId: string; pooled: PooledAnswer | null }>()

const studies = useStudies(() => props.testId)
const rows = computed(() => studies.data.value ?? [])
const patients = computed(() => {
  const pooled = props.pooled?.pooled
  return pooled ? whole(pooled.diseased + pooled.non_diseased) : ''
})

const open = ref(false)
const asked = useAsked(() => open.value)
const editing = ref<StudyView | null>(null)
function show(study: StudyView | null) {
  editing.value = study
  open.value = true
}
useShortcuts({ a: () => may('write_studies') && show(null) })
</script>

<template>
  <section class="studies">
    <header>
      <h2>
        {{ text.study.title }}
        <SampleMark v-if="rows.some((row) => row.sample)" />
        <span v-if="rows.length && patients" class="small muted count">
          {{ text.study.count(rows.length, patients) }}
        </span>
      </h2>
      <v-btn
        v-if="may('write_studies')"
        class="no-print"
        :prepend-icon="mdiPlus"
        data-test="add-study"
        @click="show(null)"
      >
        {{ text.study.add }}
      </v-btn>
    </header>
    <StateNotice
      v-if="studies.isError.value && !rows.length"
      tone="error"
      :title="text.study.failed"
      :detail="studies.error.value?.message"
    >
      <v-btn @click="studies.refetch()">{{ text.layout.retry }}</v-btn>
    </StateNotice>
    <WaitLine v-else-if="studies.isPending.value" />
    <StateNotice v-else-if="!rows.length" :title="text.study.none" :detail="text.study.noneDetail">
      <v-btn v-if="may('write_studies')" @click="show(null)">{{ text.study.add }}</v-btn>
    </StateNotice>
    <StudyForest
      v-else
      :studies="rows"
      :pooled="pooled?.pooled ?? null"
      :editable="may('write_studies')"
      @edit="show"
      @remove="removeStudy($event)"
    />
    <StudyDialog v-if="asked" v-model:open="open" :test-id="testId" :study="editing" />
  </section>
</template>

<style scoped>
.studies {
  margin-top: 26px;
}
header {
  display: flex;
  align-items: center;
  justify-content: space-between;
  margin-bottom: 8px;
}
.count {
  margin-left: 8px;
  font-family: var(--font-text);
  font-weight: 400;
}
</style>
