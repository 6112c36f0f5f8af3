<script setup lang="ts">
import type { ReferenceView } from '@/shared/api/types'
import { text } from '@/shared/text'
import ReferencePicker from './ReferencePicker.vue'

/** What a result was published as: a reference on record, or words. */
const reference = defineModel<string>('reference', { required: true })
const id = defineModel<string | null>('id', { required: true })
defineProps<{ errors: string[] }>()

function cite(picked: ReferenceView) {
  id.value = picked.id
  reference.value = picked.citation
}
function uncite() {
  id.value = null
  reference.value = ''
}
</script>

<template>
  <div v-if="id" class="cited small" data-test="cited">
    <p class="wrap-anywhere" dir="auto">{{ reference }}</p>
    <p v-for="error in errors" :key="error" class="failure" role="alert">{{ error }}</p>
    <v-btn size="small" data-test="uncite" @click="uncite">{{ text.references.other }}</v-btn>
  </div>
  <ReferencePicker v-if="!id" @picked="cite" />
  <v-textarea
    v-if="!id"
    v-model="reference"
    :label="text.study.reference"
    :hint="text.study.referenceHint"
    persistent-hint
    rows="2"
    dir="auto"
    :error-messages="errors"
    data-test="reference"
  />
</template>

<style scoped>
.cited {
  display: grid;
  gap: 8px;
  justify-items: start;
  padding: 8px 12px;
  border: 1px solid var(--line);
  border-radius: 4px;
}
</style>
