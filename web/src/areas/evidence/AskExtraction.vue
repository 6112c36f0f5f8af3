<script setup lang="ts">
import { computed, ref, watch } from 'vue'

import { ApiProblem } from '@/shared/api/client'
import { useTests } from '@/shared/api/queries'
import type { ReferenceView, TestRow } from '@/shared/api/types'
import { useQuestion } from '@/shared/question/useQuestion'
import { text } from '@/shared/text'
import { askForReport } from './extractionActions'
import ReferenceDialog from './ReferenceDialog.vue'
import ReferencePicker from './ReferencePicker.vue'

/** Puts a result of a report on the list, to be read by two people. */
const open = defineModel<boolean>('open', { required: true })

const words = text.extraction
const { region } = useQuestion()
const search = ref('')
const found = useTests(
  computed(() => ({ region: region.value, search: search.value, reverse: false, limit: 20 })),
)
const test = ref<TestRow | null>(null)
const report = ref<ReferenceView | null>(null)
const asked = ref('')
const failure = ref('')
const tried = ref(false)
const saving = ref(false)
const adding = ref(false)
const addingAsked = ref(false)
watch(open, (opened) => {
  if (!opened) return
  report.value = null
  asked.value = ''
  failure.value = ''
  tried.value = false
})

async function submit() {
  tried.value = true
  if (!test.value || !report.value) return
  saving.value = true
  failure.value = ''
  try {
    await askForReport(test.value.id, report.value.id, asked.value)
    open.value = false
  } catch (cause) {
    if (!(cause instanceof ApiProblem)) throw cause
    const [error] = cause.fields
    failure.value = error ? `${error.message} ${error.remedy}` : cause.message
  } finally {
    saving.value = false
  }
}
function addReport() {
  addingAsked.value = true
  adding.value = true
}
</script>

<template>
  <v-dialog v-model="open" max-width="620" persistent aria-labelledby="ask-title">
    <v-card class="padded" data-test="ask-dialog">
      <h2 id="ask-title">{{ words.addTitle }}</h2>
      <form novalidate @submit.prevent="submit">
        <p v-if="failure" class="failure" role="alert">{{ failure }}</p>
        <div v-if="test" class="chosen small">
          <p class="wrap-anywhere" dir="auto" data-test="asked-test">{{ test.name }}</p>
          <v-btn size="small" @click="test = null">{{ words.otherTest }}</v-btn>
        </div>
        <v-autocomplete
          v-else
          v-model:search="search"
          :model-value="null"
          :items="found.data.value?.rows ?? []"
          item-title="name"
          item-value="id"
          return-object
          no-filter
          :label="words.test"
          :no-data-text="text.result.noTest"
          :error-messages="tried ? words.needsTest : ''"
          data-test="ask-test"
          @update:model-value="test = $event"
        />
        <div v-if="report" class="chosen small">
          <p class="wrap-anywhere" dir="auto" data-test="ask-report">{{ report.citation }}</p>
          <v-btn size="small" @click="report = null">{{ text.references.other }}</v-btn>
        </div>
        <template v-else>
          <ReferencePicker @picked="report = $event" />
          <p v-if="tried" class="failure small" role="alert">{{ words.needsReport }}</p>
          <v-btn class="new" size="small" variant="text" data-test="ask-new-report" @click="addReport">{{
            words.newReport
          }}</v-btn>
        </template>
        <v-text-field
          v-model="asked"
          :label="words.asked"
          :hint="words.askedHint"
          persistent-hint
          dir="auto"
        />
        <div class="foot">
          <v-btn type="submit" variant="flat" color="primary" :loading="saving" data-test="put-on-list">
            {{ words.put }}
          </v-btn>
          <v-btn @click="open = false">{{ text.study.cancel }}</v-btn>
        </div>
      </form>
      <ReferenceDialog v-if="addingAsked" v-model:open="adding" :reference="null" />
    </v-card>
  </v-dialog>
</template>

<style scoped>
form {
  display: grid;
  gap: 12px;
  margin-top: 12px;
}
.chosen {
  display: grid;
  gap: 8px;
  justify-items: start;
  padding: 8px 12px;
  border: 1px solid var(--line);
  border-radius: 4px;
}
.new {
  justify-self: start;
}
</style>
