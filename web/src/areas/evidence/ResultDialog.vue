<script setup lang="ts">
import { computed, ref, watch } from 'vue'

import type { AccuracyInput, RawCounts, ResultView } from '@/shared/api/types'
import { moment } from '@/shared/format'
import WaitLine from '@/shared/layout/WaitLine.vue'
import { text } from '@/shared/text'
import { undoBar } from '@/shared/undo'
import { useSaving } from '@/shared/useSaving'
import { accuracyInput, addResult, correctResult, currentResult, newResult } from './resultActions'
import ResultEffect from './ResultEffect.vue'
import ResultForm from './ResultForm.vue'
import { newStudy, studyBody, studyDraft } from './studyDraft'
import { useKeptResult } from './useKeptResult'

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

const kept = useKeptResult({
  place: () => props.result?.id ?? props.testId,
  of: [study, words, cells],
  typed: () => ({ study: study.value, words: words.value, cells: cells.value }),
  take: (left) => {
    study.value = { ...newStudy(), ...left.study }
    words.value = { ...newResult(), ...left.words }
    cells.value = { ...none(), ...left.cells }
  },
  version,
})
const { ready, resumed, keptAt, pending } = kept

watch(
  open,
  (opened) => {
    if (!opened) return
    fill()
    void kept.begin()
  },
  { immediate: true },
)
/** The form with what is saved. */
function fill() {
  const given = props.result
  begin(given?.version)
  opening.value += 1
  theirs.value = null
  study.value = given ? studyDraft(given.study, 1) : newStudy()
  words.value = given ? accuracyInput(given) : newResult()
  const { tp, fp, fn, tn } = words.value
  cells.value = { tp, fp, fn, tn }
}
async function beginAnew() {
  await kept.end()
  fill()
  await kept.begin()
}
async function cancel() {
  const [again, of] = [await kept.end(), props.result?.id]
  open.value = false
  if (!again) return
  undoBar.offer(text.study.discarded, async () => {
    await again()
    // Another form may stand here by now; it is kept all the same.
    if (props.result?.id === of) open.value = true
  })
}

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
  if (saved) {
    await kept.end()
    open.value = false
  }
  if (!saved && given && failure.value) await meet(given)
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
        <p v-if="resumed" class="resumed small" data-test="result-resumed">
          {{ text.editor.goOn(moment(resumed)) }}
          <v-btn size="small" data-test="result-anew" @click="beginAnew">{{
            text.study.anew(Boolean(result))
          }}</v-btn>
        </p>
        <p v-if="failure" class="failure" role="alert">{{ failure }}</p>
        <p v-if="theirs" class="small">{{ text.study.theirs }}: {{ theirWords }}</p>
        <WaitLine v-if="!ready" />
        <ResultForm
          v-else
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
        <ResultEffect v-if="open" :test-id="testId" :correcting="result?.id" :body="body" />
        <div class="foot">
          <v-btn type="submit" variant="flat" color="primary" :loading="saving" data-test="save-result">
            {{ text.study.save }}
          </v-btn>
          <v-btn data-test="cancel-result" @click="cancel">{{ text.study.cancel }}</v-btn>
          <span class="small muted" aria-live="polite" data-test="result-kept">
            {{ pending ? text.editor.notKept : keptAt ? text.editor.keptAt(moment(keptAt)) : '' }}
          </span>
        </div>
      </form>
    </v-card>
  </v-dialog>
</template>

<style scoped>
.failure {
  margin-top: 8px;
}
.foot {
  align-items: center;
  margin-top: 16px;
}
.resumed {
  margin: 8px 0;
  padding: 8px 12px;
  background: rgba(var(--v-theme-primary), 0.07);
  border-radius: 6px;
}
</style>
