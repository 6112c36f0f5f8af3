<script setup lang="ts">
import { computed, watchEffect } from 'vue'
import { useRouter } from 'vue-router'

import { useExtraction } from '@/shared/api/queries'
import FailureNotice from '@/shared/layout/FailureNotice.vue'
import SampleMark from '@/shared/layout/SampleMark.vue'
import StateNotice from '@/shared/layout/StateNotice.vue'
import WaitLine from '@/shared/layout/WaitLine.vue'
import { useQuestion } from '@/shared/question/useQuestion'
import { text } from '@/shared/text'
import ExtractionDecisions from './ExtractionDecisions.vue'
import ExtractionForm from './ExtractionForm.vue'
import ExtractionSettling from './ExtractionSettling.vue'
import { giveUp, takeBack, takeOff } from './extractionActions'
import { undoBar } from '@/shared/undo'
import { ApiProblem } from '@/shared/api/client'
import SheetLink from '@/shared/question/SheetLink.vue'
import ProgressMark from './ProgressMark.vue'

/** One result that two people read: reading it, waiting for the other, comparing and settling, and how it was settled. */
const props = defineProps<{ extraction: string }>()

const words = text.extraction
const router = useRouter()
const { carried } = useQuestion()
const asked = useExtraction(() => props.extraction)
const view = computed(() => asked.data.value)
const writing = computed(() => view.value && !view.value.compared && !view.value.mine?.handed_in_at)
/** Two others read it. */
const taken = computed(() => writing.value && !view.value?.mine && (view.value?.readers.length ?? 0) >= 2)
/** Nobody has begun but who entered a result on record. */
const untouched = computed(() => {
  const { readers = [], result_known = false } = view.value ?? {}
  return readers.length <= (result_known ? 1 : 0)
})
watchEffect(() => (document.title = `${view.value?.report ?? words.title} – Pruvex`))

/** Back to the list as it was left, if one came from there. */
function toList() {
  const { back } = router.options.history.state
  if (String(back ?? '').startsWith('/extractions?')) return router.back()
  return router.push({ name: 'extractions', query: carried.value })
}
async function drop() {
  if (!view.value) return
  try {
    await takeOff(view.value.id)
    undoBar.offer(words.takenOff(view.value.report))
    await toList()
  } catch (cause) {
    if (!(cause instanceof ApiProblem)) throw cause
    undoBar.offer(cause.fields[0]?.message ?? cause.message)
    await asked.refetch()
  }
}
async function giveItUp(version: number) {
  if (!view.value) return
  await giveUp(view.value.id, version)
  await toList()
}
</script>

<template>
  <div>
    <p class="small">
      <router-link class="alone" :to="{ name: 'extractions', query: carried }">{{ words.title }}</router-link>
    </p>
    <FailureNotice v-if="asked.isError.value && !view" :query="asked" :title="words.failed" />
    <WaitLine v-else-if="!view" />
    <template v-else>
      <h1 dir="auto">{{ view.report }} <SampleMark v-if="view.sample" /></h1>
      <p class="about">
        <SheetLink :test="view.test.id">{{ view.test.name }}</SheetLink>
        <span v-if="view.asked" dir="auto"> · {{ view.asked }}</span>
      </p>
      <p class="small muted wrap-anywhere" dir="auto">{{ view.reference }}</p>
      <p class="small where">
        <ProgressMark :progress="view.progress" />
        <span v-for="(reader, index) in view.readers" :key="index">
          {{ words.reader(reader.you ? words.you : (reader.name ?? words.file), reader.done) }}
        </span>
      </p>
      <StateNotice v-if="taken" :title="words.two" :detail="words.twoDetail" />
      <ExtractionForm v-else-if="writing" :key="view.id" :view="view" :leave="toList" @give-up="giveItUp" />
      <StateNotice v-else-if="!view.compared" :title="words.yours" :detail="words.yoursDetail">
        <v-btn v-if="!view.result_known" data-test="take-back" @click="takeBack(view)">{{
          words.takeBack
        }}</v-btn>
      </StateNotice>
      <ExtractionSettling v-else-if="!view.settled" :key="`${view.id} settling`" :view="view" />
      <ExtractionDecisions v-else :view="view" />
      <v-btn
        v-if="!view.compared && untouched"
        class="drop no-print"
        size="small"
        variant="text"
        data-test="take-off"
        @click="drop"
      >
        {{ words.takeOff }}
      </v-btn>
    </template>
  </div>
</template>

<style scoped>
h1 {
  margin: 4px 0;
}
.where {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 16px;
  margin: 8px 0 14px;
}
.drop {
  margin-top: 18px;
}
</style>
