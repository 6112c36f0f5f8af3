<script setup lang="ts">
import { ref, watch } from 'vue'

import { api } from '@/shared/api/client'
import type { ExaminationView, ReferenceFound, StandardKind, ReferenceResult } from '@/shared/api/types'
import { copy } from '@/shared/copy'
import { day } from '@/shared/format'
import { options } from '@/shared/question/useListPage'
import { text } from '@/shared/text'
import { undoBar } from '@/shared/undo'
import { useSaving } from '@/shared/useSaving'

/** What was found out later of a finished examination. */
const props = defineProps<{ record: ExaminationView }>()

const words = text.examination.reference
const FOUND = Object.keys(words.found) as ReferenceFound[]
const KINDS = options<StandardKind>(words.kinds)
const draft = ref<ReferenceResult[] | null>(null)
const saving = useSaving(text.examination.run.conflict)
watch(
  () => props.record.id,
  () => (draft.value = null),
)
function edit() {
  const known = (condition: string) =>
    props.record.reference.find((it) => it.condition.toLowerCase() === condition.toLowerCase())
  draft.value = props.record.plan.questions.map(({ condition }) => {
    const earlier = known(condition)
    const today = new Date().toISOString().slice(0, 10)
    return earlier ? copy(earlier) : { condition, found: null, by: null, on: today, note: '' }
  })
  saving.begin(props.record.version)
}
async function save() {
  // A condition of which nothing is said is left out.
  const results = (draft.value ?? []).filter((it) => it.found || it.by || it.note)
  const body = { results, corrects: props.record.reference.length > 0 }
  const path = { id: props.record.id }
  const saved = await saving.save((header) =>
    api.PUT('/api/v1/examinations/{id}/reference', { params: { path, header }, body }),
  )
  if (!saved) return
  draft.value = null
  undoBar.offer(words.saved)
}
const errors = (nth: number, field: string) => {
  const kept = (draft.value ?? []).slice(0, nth).filter((it) => it.found || it.by || it.note).length
  return saving.of(`results[${kept}].${field}`)
}
</script>

<template>
  <section data-test="reference">
    <h2>{{ words.title }}</h2>
    <template v-if="!draft">
      <p v-for="it in record.reference" :key="it.condition" dir="auto" data-test="reference-result">
        <b>{{ it.condition }}:</b> {{ it.found ? words.found[it.found] : ''
        }}<template v-if="it.by">, {{ words.kinds[it.by] }}</template
        ><template v-if="it.on">, {{ day(it.on) }}</template
        ><template v-if="it.note">. {{ it.note }}</template>
      </p>
      <p v-if="!record.reference.length" class="small muted">{{ words.none }}</p>
      <v-btn
        v-if="record.own"
        class="no-print"
        variant="outlined"
        data-test="enter-reference"
        @click="edit"
        >{{ record.reference.length ? words.correct : words.enter }}</v-btn
      >
    </template>
    <form v-else @submit.prevent="save">
      <fieldset v-for="(it, nth) in draft" :key="it.condition" data-test="reference-fields">
        <legend dir="auto">{{ it.condition }}</legend>
        <p class="found">
          <label v-for="found in FOUND" :key="found">
            <input
              v-model="it.found"
              type="radio"
              :name="`found-${nth}`"
              :value="found"
              :data-test="`found-${found}`"
            />
            {{ words.found[found] }}
          </label>
        </p>
        <div class="fields">
          <v-select
            v-model="it.by"
            :items="KINDS"
            :label="words.by"
            :error-messages="errors(nth, 'by')"
            density="compact"
            hide-details="auto"
            clearable
            :data-test="`by-${nth}`"
          />
          <v-text-field v-model="it.on" type="date" :label="words.on" density="compact" hide-details />
          <v-text-field
            v-model="it.note"
            :label="words.note"
            :error-messages="errors(nth, 'note')"
            density="compact"
            hide-details="auto"
          />
        </div>
        <p v-for="error in errors(nth, 'found')" :key="error" class="small failure">{{ error }}</p>
      </fieldset>
      <p
        v-for="error in saving.of('results')"
        v-show="!draft.some((it) => it.found)"
        :key="error"
        class="failure"
      >
        {{ error }}
      </p>
      <p v-if="saving.failure.value" class="failure" role="alert">{{ saving.failure.value }}</p>
      <p>
        <v-btn
          type="submit"
          color="primary"
          variant="flat"
          :loading="saving.saving.value"
          data-test="save-reference"
          >{{ words.save }}</v-btn
        >
        <v-btn variant="text" @click="draft = null">{{ text.examination.record.cancel }}</v-btn>
      </p>
    </form>
  </section>
</template>

<style scoped>
h2 {
  margin-top: 16px;
}
fieldset {
  min-width: 0;
  padding: 0 0 10px;
  border: 0;
}
legend {
  padding: 0;
  font-weight: 600;
}
.found {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 20px;
}
label {
  display: flex;
  gap: 6px;
  align-items: center;
  min-height: 44px;
}
input[type='radio'] {
  width: 20px;
  height: 20px;
  accent-color: rgb(var(--v-theme-primary));
}
.fields {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(200px, 1fr));
  gap: 8px 16px;
}
</style>
