<script setup lang="ts">
import { computed, ref } from 'vue'

import type { AccuracyInput, RawCounts, ResultView } from '@/shared/api/types'
import { text } from '@/shared/text'
import { useSaving } from '@/shared/useSaving'
import KeptDialog from './KeptDialog.vue'
import { addResult, correctResult, currentResult } from './resultActions'
import { accuracyInput, newResult } from './resultFields'
import ResultEffect from './ResultEffect.vue'
import ResultForm from './ResultForm.vue'
import { newStudy, studyBody, studyDraft } from './studyDraft'
import { useKeptForm } from './useKeptForm'

/** Adds a result, or corrects one, with its study; what the cells say is answered while they are typed. */
const open = defineModel<boolean>('open', { required: true })
const props = defineProps<{ testId: string; result: ResultView | null }>()

const none = (): RawCounts => ({ tp: null, fp: null, fn: null, tn: null })
const study = ref(newStudy())
const words = ref<AccuracyInput>(newResult())
const cells = ref<RawCounts>(none())
const theirs = ref<ResultView | null>(null)
/** Each time it opens the form begins anew. */
const opening = ref(0)
const { version, failure, errors, saving, begin, of, save } = useSaving(text.study.conflict, (what, now) => {
  if (what === 'study') study.value.version = now
  return what === 'study'
})

const kept = useKeptForm({
  open,
  what: () => 'result' as const,
  place: () => props.result?.id ?? props.testId,
  fill: () => {
    const given = props.result
    begin(given?.version)
    opening.value += 1
    theirs.value = null
    study.value = given ? studyDraft(given.study, 1) : newStudy()
    words.value = given ? accuracyInput(given) : newResult()
    const { tp, fp, fn, tn } = words.value
    cells.value = { tp, fp, fn, tn }
  },
  of: [study, words, cells],
  typed: () => ({ study: study.value, words: words.value, cells: cells.value }),
  take: (left) => {
    study.value = { ...newStudy(), ...left.study }
    words.value = { ...newResult(), ...left.words }
    cells.value = { ...none(), ...left.cells }
  },
  version,
})

const body = computed(() => {
  const { tp = null, fp = null, fn = null, tn = null } = cells.value
  return { ...studyBody(study.value), result: { ...words.value, tp, fp, fn, tn } }
})
async function submit() {
  const given = props.result
  theirs.value = null
  const saved = await save(() =>
    given ? correctResult(given, version.value, body.value) : addResult(props.testId, body.value),
  )
  if (saved) await kept.saved()
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
  <KeptDialog
    v-model:open="open"
    name="result"
    :title="result ? text.study.editTitle : text.study.addTitle"
    :save-label="text.study.save"
    :correcting="Boolean(result)"
    :failure="failure"
    :saving="saving"
    :kept="kept"
    :width="940"
    @save="submit"
  >
    <template #theirs>
      <p v-if="theirs" class="small">{{ text.study.theirs }}: {{ theirWords }}</p>
    </template>
    <ResultForm
      :key="opening"
      v-model:study="study"
      v-model:words="words"
      v-model:cells="cells"
      v-model:errors="errors"
      :test-id="testId"
      :others="result?.others ?? []"
      :of="of"
      :sample="result?.sample"
    />
    <template #after>
      <ResultEffect v-if="open" :test-id="testId" :correcting="result?.id" :body="body" />
    </template>
  </KeptDialog>
</template>
