<script setup lang="ts">
import type { KnownStudy } from '@/shared/api/types'
import { text } from '@/shared/text'
import CitedReference from './CitedReference.vue'
import KnownStudies from './KnownStudies.vue'
import SetupFields from './SetupFields.vue'
import { newStudy, studyDraft, type StudyDraft } from './studyDraft'

/** The study that a result is of: where it was published, who was examined, and how. */
const draft = defineModel<StudyDraft>({ required: true })
defineProps<{ of: (field: string) => string[]; reportGiven?: boolean }>()

function take(study: KnownStudy) {
  Object.assign(draft.value, studyDraft(study, 0))
}
/** Other people of the same report: its words stay, who they are does not. */
function part() {
  const { reference, reference_id } = draft.value.words
  const other = newStudy()
  Object.assign(draft.value, { ...other, words: { ...other.words, reference, reference_id } })
}
</script>

<template>
  <CitedReference
    v-if="!reportGiven"
    v-model:id="draft.words.reference_id"
    v-model:reference="draft.words.reference"
    :errors="[...of('study.reference'), ...of('study.reference_id')]"
  />
  <KnownStudies
    v-if="!reportGiven && !draft.id"
    :reference-id="draft.words.reference_id"
    :reference="draft.words.reference"
    @take="take"
  />
  <div v-else-if="!reportGiven && draft.others" class="same small" data-test="of-study">
    <p>{{ text.study.others(draft.others) }}</p>
    <v-btn size="small" data-test="other-people" @click="part">{{ text.study.part }}</v-btn>
  </div>
  <v-text-field
    v-model="draft.words.population"
    :label="text.study.population"
    :error-messages="of('study.population')"
    dir="auto"
    data-test="population"
  />
  <SetupFields v-model="draft.words.setup" :of="(field) => of(`study.${field}`)" />
  <v-textarea
    v-if="draft.id || draft.words.note"
    v-model="draft.words.note"
    :label="text.study.studyNote"
    rows="1"
    auto-grow
    :error-messages="of('study.note')"
    dir="auto"
  />
</template>

<style scoped>
.same {
  display: grid;
  gap: 8px;
  justify-items: start;
  margin-bottom: 6px;
}
</style>
