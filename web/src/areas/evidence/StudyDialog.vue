<script setup lang="ts">
import { computed, ref, watch } from 'vue'

import MeasureTable from '@/areas/pooling/MeasureTable.vue'
import { noteWords } from '@/areas/pooling/words'
import { ApiProblem } from '@/shared/api/client'
import type { FieldError, RawCounts, StudyInput, StudySetup, StudyView } from '@/shared/api/types'
import SampleMark from '@/shared/layout/SampleMark.vue'
import { text } from '@/shared/text'
import CitedReference from './CitedReference.vue'
import CountTable from './CountTable.vue'
import RebuildPanel from './RebuildPanel.vue'
import SetupFields from './SetupFields.vue'
import { addStudy, correctStudy, currentStudy, studyInput } from './studyActions'
import { useLiveAccuracy } from './useLiveAccuracy'

/** Adds a study, or corrects one; what the cells say is answered while they are typed. */
const open = defineModel<boolean>('open', { required: true })
const props = defineProps<{ testId: string; study: StudyView | null }>()

const blank = () => ({
  reference: '',
  reference_id: null as string | null,
  population: '',
  setup: {} as StudySetup,
  reference_standard: '',
  note: '',
})
const none = (): RawCounts => ({ tp: null, fp: null, fn: null, tn: null })
const words = ref(blank())
const cells = ref<RawCounts>(none())
const version = ref(0)
const before = ref<StudyInput | null>(null)
const errors = ref<FieldError[]>([])
const failure = ref('')
const theirs = ref<StudyView | null>(null)
const saving = ref(false)
const { accuracy, faults } = useLiveAccuracy(cells)

watch(open, begin, { immediate: true })
function begin(opened: boolean) {
  if (!opened) return
  const { study } = props
  before.value = study && studyInput(study)
  version.value = study?.version ?? 0
  words.value = { ...blank(), ...(before.value && wordsOf(before.value)) }
  // A correction of the reference shows here too.
  if (study?.cited) words.value.reference = study.cited.citation
  cells.value = before.value
    ? { tp: before.value.tp, fp: before.value.fp, fn: before.value.fn, tn: before.value.tn }
    : none()
  errors.value = []
  failure.value = ''
  theirs.value = null
}

const CELLS = ['tp', 'fp', 'fn', 'tn']
const cellErrors = computed(() => {
  const saved = errors.value.filter((error) => CELLS.includes(error.field))
  return saved.length ? saved : faults.value
})
const of = (field: string) =>
  errors.value.filter((error) => error.field === field).map((error) => `${error.message} ${error.remedy}`)
watch(cells, () => (errors.value = errors.value.filter((error) => !CELLS.includes(error.field))))

const body = computed<StudyInput>(() => {
  const { tp = null, fp = null, fn = null, tn = null } = cells.value
  return { ...words.value, tp, fp, fn, tn }
})

function wordsOf({
  reference,
  reference_id = null,
  population,
  setup,
  reference_standard,
  note,
}: StudyInput) {
  return { reference, reference_id, population, setup, reference_standard, note }
}

/** The counts, and in the notes where they came from: nobody finds them in the report itself. */
function rebuilt(counts: RawCounts, figures: string) {
  cells.value = counts
  words.value.note = [words.value.note.trim(), text.rebuild.from(figures)].filter(Boolean).join('\n')
}

async function save() {
  saving.value = true
  errors.value = []
  failure.value = ''
  try {
    if (props.study && before.value) {
      await correctStudy(props.study.id, version.value, before.value, body.value)
    } else {
      await addStudy(props.testId, body.value)
    }
    open.value = false
  } catch (cause) {
    await explain(cause)
  } finally {
    saving.value = false
  }
}

async function explain(cause: unknown) {
  if (!(cause instanceof ApiProblem)) throw cause
  if (cause.code === 'changed_meanwhile' && props.study) {
    theirs.value = await currentStudy(props.testId, props.study.id)
    version.value = theirs.value?.version ?? version.value
    failure.value = theirs.value ? text.study.conflict : cause.message
    return
  }
  errors.value = cause.fields
  if (!cause.fields.length) failure.value = cause.message
}
</script>

<template>
  <v-dialog v-model="open" max-width="940" persistent aria-labelledby="study-title">
    <v-card class="padded" data-test="study-dialog">
      <h2 id="study-title">{{ study ? text.study.editTitle : text.study.addTitle }}</h2>
      <form novalidate @submit.prevent="save">
        <p v-if="failure" class="failure" role="alert">{{ failure }}</p>
        <p v-if="theirs" class="small">
          {{ text.study.theirs }}: {{ theirs.reference }} · TP {{ theirs.counts.tp ?? '–' }}, FP
          {{ theirs.counts.fp ?? '–' }}, FN {{ theirs.counts.fn ?? '–' }}, TN {{ theirs.counts.tn ?? '–' }}
        </p>
        <div class="halves">
          <div>
            <CitedReference
              v-model:reference="words.reference"
              v-model:id="words.reference_id"
              :errors="of('reference')"
            />
            <v-text-field
              v-model="words.population"
              :label="text.study.population"
              :error-messages="of('population')"
              dir="auto"
            />
            <v-text-field
              v-model="words.reference_standard"
              :label="text.study.standard"
              :error-messages="of('reference_standard')"
              dir="auto"
            />
            <h3>{{ text.study.counts }}</h3>
            <CountTable v-model="cells" :errors="cellErrors" />
            <RebuildPanel @use="rebuilt" />
            <v-textarea
              v-model="words.note"
              :label="text.study.note"
              :hint="text.study.noteHint"
              persistent-hint
              rows="1"
              auto-grow
              dir="auto"
              :error-messages="of('note')"
              data-test="note"
            />
          </div>
          <div>
            <section class="live" aria-live="polite" data-test="live">
              <h3>{{ text.study.live }} <SampleMark v-if="study?.sample" /></h3>
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
            <SetupFields v-model="words.setup" :of="of" />
          </div>
        </div>
        <div class="foot">
          <v-btn type="submit" variant="flat" color="primary" :loading="saving" data-test="save-study">
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
