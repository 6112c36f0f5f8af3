<script setup lang="ts">
import { useEventListener, watchDebounced } from '@vueuse/core'
import { onBeforeUnmount, ref, watch } from 'vue'

import { ApiProblem } from '@/shared/api/client'
import type { DoubleExtractionView, ExtractionInput, RawCounts } from '@/shared/api/types'
import { moment } from '@/shared/format'
import { text } from '@/shared/text'
import { undoBar } from '@/shared/undo'
import { useSaving } from '@/shared/useSaving'
import { saveOwn } from './extractionActions'
import { newResult } from './resultActions'
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

let last = JSON.stringify(content())
const keptAt = ref('')
const pending = ref(false)
let keeping = Promise.resolve()
/** One after the other: each is kept at the version that the one before made. */
function keepNow() {
  if (pending.value && !saving.value) keeping = keeping.then(keepText)
}
async function keepText() {
  const typed = content()
  if (JSON.stringify(typed) === last) return
  try {
    const saved = await saveOwn(props.view.id, { 'If-Match': `"${version.value}"` }, typed, false)
    version.value = saved.mine?.version ?? version.value
    last = JSON.stringify(typed)
    keptAt.value = new Date().toISOString()
    pending.value = last !== JSON.stringify(content())
  } catch (cause) {
    if (!(cause instanceof ApiProblem)) throw cause
    // When the server is away the page says so already, and the next change tries again.
    if (cause.code === 'changed_meanwhile') {
      version.value = cause.problem.current_version ?? version.value
      failure.value = words.conflict
    } else if (cause.fields.length) failure.value = cause.fields[0]?.message ?? cause.message
  }
}
watch([study, result, cells], () => (pending.value = JSON.stringify(content()) !== last), { deep: true })
watchDebounced([study, result, cells], keepNow, { deep: true, debounce: 1000, maxWait: 5000 })
useEventListener('beforeunload', (event) => pending.value && event.preventDefault())
onBeforeUnmount(keepNow)

async function handIn() {
  await keeping
  const typed = content()
  const done = await save(async (header) => {
    await saveOwn(props.view.id, header, typed, true)
  })
  if (!done) return
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
