<script setup lang="ts">
import { computed, ref, watch } from 'vue'

import MeasureTable from '@/areas/pooling/MeasureTable.vue'
import { noteWords } from '@/areas/pooling/words'
import type { AccuracyInput, RawCounts, ResultView } from '@/shared/api/types'
import SampleMark from '@/shared/layout/SampleMark.vue'
import { text } from '@/shared/text'
import { useSaving } from '@/shared/useSaving'
import CountTable from './CountTable.vue'
import RebuildPanel from './RebuildPanel.vue'
import { accuracyInput, addResult, correctResult, currentResult, newResult } from './resultActions'
import ResultDetails from './ResultDetails.vue'
import { newStudy, studyBody, studyDraft } from './studyDraft'
import StudyFields from './StudyFields.vue'
import { useLiveAccuracy } from './useLiveAccuracy'

/** Adds a result, or corrects one, with its study; what the cells say is answered while they are typed. */
const open = defineModel<boolean>('open', { required: true })
const props = defineProps<{ testId: string; result: ResultView | null }>()

const none = (): RawCounts => ({ tp: null, fp: null, fn: null, tn: null })
const study = ref(newStudy())
const words = ref<AccuracyInput>(newResult())
const cells = ref<RawCounts>(none())
const theirs = ref<ResultView | null>(null)
const { accuracy, faults } = useLiveAccuracy(cells)
const { version, failure, errors, saving, begin, of, save } = useSaving(text.study.conflict, (what, now) => {
  if (what === 'study') study.value.version = now
  return what === 'study'
})

watch(open, start, { immediate: true })
function start(opened: boolean) {
  if (!opened) return
  const given = props.result
  begin(given?.version)
  theirs.value = null
  study.value = given ? studyDraft(given.study, 1) : newStudy()
  words.value = given ? accuracyInput(given) : newResult()
  const { tp, fp, fn, tn } = words.value
  cells.value = { tp, fp, fn, tn }
}

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

async function submit() {
  const { tp = null, fp = null, fn = null, tn = null } = cells.value
  const body = { ...studyBody(study.value), result: { ...words.value, tp, fp, fn, tn } }
  const given = props.result
  theirs.value = null
  const saved = await save(() =>
    given ? correctResult(given, version.value, body) : addResult(props.testId, body),
  )
  if (saved) open.value = false
  else if (given && failure.value) await meet(given)
}
/** Shows what was saved meanwhile. The next save starts from there; of the study only what was typed here replaces it. */
async function meet(given: ResultView) {
  const now = await currentResult(props.testId, given.id)
  theirs.value = now
  if (!now) return
  version.value = now.version
  const read = studyDraft(given.study, 1)
  if (now.study.id !== study.value.id) return
  if (JSON.stringify(read.words) === JSON.stringify(study.value.words)) study.value = studyDraft(now.study, 1)
  else study.value.version = now.study.version
}
const theirWords = computed(() => {
  if (!theirs.value) return ''
  const { counts, study } = theirs.value
  const cell = (name: keyof typeof counts) => `${name.toUpperCase()} ${counts[name] ?? '–'}`
  const shown = (['tp', 'fp', 'fn', 'tn'] as const).map(cell).join(', ')
  return [study.cited?.label ?? study.reference, study.population, shown].filter(Boolean).join(' · ')
})
</script>

<template>
  <v-dialog v-model="open" max-width="940" persistent aria-labelledby="result-title">
    <v-card class="padded" data-test="result-dialog">
      <h2 id="result-title">{{ result ? text.study.editTitle : text.study.addTitle }}</h2>
      <form novalidate @submit.prevent="submit">
        <p v-if="failure" class="failure" role="alert">{{ failure }}</p>
        <p v-if="theirs" class="small">{{ text.study.theirs }}: {{ theirWords }}</p>
        <div class="halves">
          <div>
            <StudyFields v-model="study" :of="of" />
            <h3>{{ text.study.counts }}</h3>
            <CountTable v-model="cells" :errors="cellErrors" />
            <RebuildPanel @use="rebuilt" />
          </div>
          <div>
            <section class="live" aria-live="polite" data-test="live">
              <h3>{{ text.study.live }} <SampleMark v-if="result?.sample" /></h3>
              <template v-if="accuracy">
                <MeasureTable
                  :summary="accuracy"
                  :workings="text.pooled.singleWorkings"
                  :level="accuracy.methods.level"
                />
                <ul class="small notes">
                  <li v-for="note in accuracy.notes" :key="note.code">{{ noteWords(note) }}</li>
                </ul>
              </template>
              <p v-else class="muted">{{ text.study.liveEmpty }}</p>
            </section>
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
            <ResultDetails
              v-if="open"
              v-model="words"
              :test-id="testId"
              :others="result?.others ?? []"
              :of="of"
            />
          </div>
        </div>
        <div class="foot">
          <v-btn type="submit" variant="flat" color="primary" :loading="saving" data-test="save-result">
            {{ text.study.save }}
          </v-btn>
          <v-btn @click="open = false">{{ text.study.cancel }}</v-btn>
        </div>
      </form>
    </v-card>
  </v-dialog>
</template>

<style scoped>
.notes {
  padding-left: 1.2em;
}
.failure {
  margin-top: 8px;
}
.foot {
  margin-top: 16px;
}
</style>
