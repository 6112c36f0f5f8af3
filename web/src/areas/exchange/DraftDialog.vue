<script setup lang="ts">
import { computed, ref } from 'vue'

import type { Purpose } from '@/shared/api/types'
import { useQuestion } from '@/shared/question/useQuestion'
import { text } from '@/shared/text'
import type { DraftSheet } from './tableImport'

/** A sheet for a test that a table names and the catalogue does not have: what a draft cannot do without. */
const props = defineProps<{ name: string }>()
const emit = defineEmits<{ close: []; write: [sheet: DraftSheet] }>()
const words = text.tableImport.mend
const question = useQuestion()
const purpose = ref<Purpose | null>(null)
const finding = ref('')
const condition = ref(question.condition.value?.name ?? '')
const purposes = Object.entries(text.purposes).map(([value, title]) => ({ value: value as Purpose, title }))
const complete = computed(() => purpose.value && condition.value.trim() && finding.value.trim())

function write() {
  if (!complete.value || !purpose.value) return
  emit('write', {
    name: props.name,
    region: question.region.value,
    purpose: purpose.value,
    condition: condition.value.trim(),
    positive_finding: finding.value.trim(),
  })
}
</script>

<template>
  <v-dialog
    :model-value="true"
    max-width="520"
    aria-labelledby="draft-title"
    @update:model-value="emit('close')"
  >
    <v-card class="padded">
      <form class="form" @submit.prevent="write">
        <h2 id="draft-title">{{ words.draftTitle(name) }}</h2>
        <p class="small muted">{{ words.draftAbout(text.regions[question.region.value]) }}</p>
        <v-select
          v-model="purpose"
          :items="purposes"
          :label="words.purpose"
          hide-details
          data-test="draft-purpose"
        />
        <v-text-field v-model="condition" :label="words.condition" hide-details data-test="draft-condition" />
        <v-textarea
          v-model="finding"
          :label="words.finding"
          rows="2"
          auto-grow
          hide-details
          data-test="draft-finding"
        />
        <div class="foot">
          <v-btn type="submit" color="primary" variant="flat" :disabled="!complete" data-test="write-draft">{{
            words.write
          }}</v-btn>
          <v-btn @click="emit('close')">{{ text.people.cancel }}</v-btn>
        </div>
      </form>
    </v-card>
  </v-dialog>
</template>
