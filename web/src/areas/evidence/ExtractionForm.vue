<script setup lang="ts">
import { ref } from 'vue'

import type { DoubleExtractionView, ExtractionInput, RawCounts } from '@/shared/api/types'
import { moment } from '@/shared/format'
import { text } from '@/shared/text'
import { undoBar } from '@/shared/undo'
import { useAutosave } from '@/shared/useAutosave'
import { useSaving } from '@/shared/useSaving'
import { saveOwn } from './extractionActions'
import { newResult } from './resultFields'
import ResultForm from './ResultForm.vue'
import { newStudy } from './studyDraft'

/** What one reader reads off a report; kept while it is typed, checked when it is handed in. */
const props = defineProps<{
  view: DoubleExtractionView
  /** Not an event: the form is gone as soon as what it read is handed in. */
  leave: () => unknown
}>()
const emit = defineEmits<{ giveUp: [version: number] }>()

const words = text.extraction
const begun = props.view.mine
const study = ref(newStudy())
Object.assign(study.value.words, JSON.parse(JSON.stringify(begun?.content.study ?? {})))
const result = ref({ ...newResult(), ...(JSON.parse(JSON.stringify(begun?.content.result ?? {})) as object) })
const { tp = null, fp = null, fn = null, tn = null } = result.value
const cells = ref<RawCounts>({ tp, fp, fn, tn })
const { version, failure, errors, saving, begin, of, save } = useSaving(words.conflict)
begin(begun?.version)

function content(): ExtractionInput {
  const { tp = null, fp = null, fn = null, tn = null } = cells.value
  return JSON.parse(
    JSON.stringify({ study: study.value.words, result: { ...result.value, tp, fp, fn, tn } }),
  ) as ExtractionInput
}

const { keptAt, pending, ...keeping } = useAutosave<ExtractionInput>({
  of: [study, result, cells],
  typed: content,
  send: async (typed) => {
    const saved = await saveOwn(props.view.id, { 'If-Match': `"${version.value}"` }, typed, false)
    version.value = saved.mine?.version ?? version.value
  },
  refused: (problem) => {
    if (problem.code === 'changed_meanwhile') {
      version.value = problem.problem.current_version ?? version.value
      failure.value = words.conflict
    } else if (problem.fields.length) failure.value = problem.fields[0]?.message ?? problem.message
  },
})
keeping.begin()

async function handIn() {
  await keeping.rest()
  const typed = content()
  const done = await save(async (header) => {
    await saveOwn(props.view.id, header, typed, true)
  })
  if (!done) {
    keeping.resume()
    return
  }
  pending.value = false
  undoBar.offer(words.handedIn)
  await props.leave()
}
</script>

<template>
  <form novalidate @submit.prevent="handIn">
    <p class="blind">
      {{ view.readers.some((reader) => !reader.you) && view.result_known ? words.known : words.blind }}
    </p>
    <p v-if="failure" class="failure" role="alert" data-test="extraction-failure">{{ failure }}</p>
    <ResultForm
      v-model:study="study"
      v-model:words="result"
      v-model:cells="cells"
      v-model:errors="errors"
      :test-id="view.test.id"
      :others="[]"
      :of="of"
      report-given
    />
    <div class="foot">
      <v-btn type="submit" variant="flat" color="primary" :loading="saving" data-test="hand-in">
        {{ words.handIn }}
      </v-btn>
      <v-btn v-if="version" variant="text" data-test="give-up" @click="emit('giveUp', version)">{{
        words.giveUp
      }}</v-btn>
      <span class="small muted kept" aria-live="polite" data-test="kept">
        {{ pending ? words.notKept : keptAt ? words.kept(moment(keptAt)) : '' }}
      </span>
    </div>
  </form>
</template>

<style scoped>
.blind {
  max-width: 72ch;
}
.foot {
  align-items: center;
  margin-top: 16px;
}
</style>
