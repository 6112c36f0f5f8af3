<script setup lang="ts">
import { computed, watch } from 'vue'

import MeasureTable from '@/areas/pooling/MeasureTable.vue'
import { noteWords, workingWords } from '@/areas/pooling/words'
import type { AccuracyInput, FieldError, RawCounts, NamedTest } from '@/shared/api/types'
import SampleMark from '@/shared/layout/SampleMark.vue'
import { text } from '@/shared/text'
import CountTable from './CountTable.vue'
import FlowFields from './FlowFields.vue'
import LevelFields from './LevelFields.vue'
import RebuildPanel from './RebuildPanel.vue'
import ResultDetails from './ResultDetails.vue'
import type { StudyDraft } from './studyDraft'
import StudyFields from './StudyFields.vue'
import { useLiveAccuracy } from './useLiveAccuracy'

/** What a report says of a study and one result of it; what the cells say is answered while they are typed. */
const study = defineModel<StudyDraft>('study', { required: true })
const words = defineModel<AccuracyInput>('words', { required: true })
const cells = defineModel<RawCounts>('cells', { required: true })
const errors = defineModel<FieldError[]>('errors', { required: true })
defineProps<{
  testId: string
  others: NamedTest[]
  of: (field: string) => string[]
  sample?: boolean
  /** The report is given: it is not asked for. */
  reportGiven?: boolean
}>()

const { accuracy, faults } = useLiveAccuracy(cells)
const CELLS = ['tp', 'fp', 'fn', 'tn'].map((cell) => `result.${cell}`)
const cellErrors = computed(() => {
  const saved = errors.value.filter((error) => CELLS.includes(error.field))
  const shown = saved.map((error) => ({ ...error, field: error.field.replace('result.', '') }))
  return shown.length ? shown : faults.value
})
watch(cells, () => (errors.value = errors.value.filter((error) => !CELLS.includes(error.field))))

/** The counts, and in the notes where they came from: nobody finds them in the report itself. */
function rebuilt(counts: RawCounts, figures: string) {
  cells.value = counts
  words.value.note = [words.value.note?.trim(), text.rebuild.from(figures)].filter(Boolean).join('\n')
}
</script>

<template>
  <div class="halves">
    <div>
      <StudyFields v-model="study" :of="of" :report-given="reportGiven" />
      <h3>{{ text.study.counts }}</h3>
      <CountTable v-model="cells" :errors="cellErrors" />
      <RebuildPanel @use="rebuilt" />
      <FlowFields v-model="words" :of="of" />
      <LevelFields v-model="words" :test-id="testId" :of="of" />
    </div>
    <div>
      <v-text-field
        v-model="words.reference_standard"
        :label="text.study.standard"
        :error-messages="of('result.reference_standard')"
        dir="auto"
        data-test="standard"
      />
      <v-text-field
        v-model="words.page"
        :label="text.study.page"
        :placeholder="text.study.pageHint"
        :error-messages="of('result.page')"
        dir="auto"
        data-test="page"
      />
      <v-textarea
        v-model="words.note"
        :label="text.study.note"
        :hint="text.study.noteHint"
        persistent-hint
        rows="1"
        auto-grow
        dir="auto"
        :error-messages="of('result.note')"
        data-test="note"
      />
      <ResultDetails v-model="words" :test-id="testId" :others="others" :of="of" />
      <!-- Last, so that an answer coming in moves no field from under the hand. -->
      <section class="live" aria-live="polite" data-test="live">
        <h3>{{ text.study.live }} <SampleMark v-if="sample" /></h3>
        <template v-if="accuracy">
          <MeasureTable :summary="accuracy" :workings="workingWords()" :level="accuracy.methods.level" />
          <ul class="small notes">
            <li v-for="note in accuracy.notes" :key="note.code">{{ noteWords(note) }}</li>
          </ul>
        </template>
        <p v-else class="muted">{{ text.study.liveEmpty }}</p>
      </section>
    </div>
  </div>
</template>

<style scoped>
.notes {
  padding-left: 1.2em;
}
</style>
