<script setup lang="ts">
import { ref, watch } from 'vue'

import type { PrevalenceReport } from '@/shared/api/types'
import { text } from '@/shared/text'
import { typedNumber } from '@/shared/typedNumber'

/** One report of prevalence as it is written; the page saves it with the others of the condition. */
const open = defineModel<boolean>('open', { required: true })
const props = defineProps<{
  report: PrevalenceReport | null
  failure: string
  saving: boolean
  of: (field: string) => string[]
}>()
const emit = defineEmits<{ save: [report: PrevalenceReport] }>()

const words = text.prevalence
const COUNTS = ['people', 'with_condition'] as const
const AGES = ['age_from', 'age_to'] as const
const blank = (): PrevalenceReport => ({
  symptoms: null,
  people: null,
  with_condition: null,
  age_from: null,
  age_to: null,
  setting: null,
  activity: null,
  method: '',
  source: '',
  sample: false,
})
const draft = ref(blank())
watch(open, (shown) => {
  if (shown) draft.value = { ...blank(), ...props.report }
})
const symptoms = (['with', 'without'] as const).map((value) => ({ value, title: words[value] }))
const items = (its: Record<string, string>) => Object.entries(its).map(([value, title]) => ({ value, title }))
const choices = (['setting', 'activity'] as const).map((name) => ({
  name,
  items: items(text.setup.choices[name].words),
}))
function setNumber(name: (typeof COUNTS)[number] | (typeof AGES)[number], typed: unknown) {
  draft.value = { ...draft.value, [name]: typedNumber(String(typed ?? '')) }
}
</script>

<template>
  <v-dialog v-model="open" max-width="620">
    <v-card data-test="prevalence-dialog">
      <form class="dialog-form" novalidate @submit.prevent="emit('save', draft)">
        <h2>{{ report ? words.editReport : words.add }}</h2>
        <p v-if="failure" role="alert" class="failure">{{ failure }}</p>
        <v-text-field
          v-model="draft.source"
          :label="words.fields.source"
          :error-messages="of('source')"
          dir="auto"
          autofocus
          data-test="prevalence-source"
        />
        <v-select
          v-model="draft.symptoms"
          :items="symptoms"
          :label="words.fields.symptoms"
          :error-messages="of('symptoms')"
          data-test="prevalence-symptoms"
        />
        <div class="pair">
          <v-text-field
            v-for="name in COUNTS"
            :key="name"
            :model-value="draft[name]"
            :label="words.fields[name]"
            type="number"
            min="0"
            step="1"
            hide-spin-buttons
            :error-messages="of(name)"
            :data-test="`prevalence-${name}`"
            @update:model-value="setNumber(name, $event)"
          />
          <v-text-field
            v-for="name in AGES"
            :key="name"
            :model-value="draft[name]"
            :label="words.fields[name]"
            :suffix="words.years"
            type="number"
            min="0"
            hide-spin-buttons
            :error-messages="of(name)"
            @update:model-value="setNumber(name, $event)"
          />
          <v-select
            v-for="choice in choices"
            :key="choice.name"
            v-model="draft[choice.name]"
            :items="choice.items"
            :label="words.fields[choice.name]"
            clearable
            :error-messages="of(choice.name)"
          />
        </div>
        <v-text-field
          v-model="draft.method"
          :label="words.fields.method"
          :error-messages="of('method')"
          dir="auto"
        />
        <div class="foot">
          <v-btn type="submit" variant="flat" color="primary" :loading="saving" data-test="save-prevalence">
            {{ words.save }}
          </v-btn>
          <v-btn variant="text" @click="open = false">{{ words.cancel }}</v-btn>
        </div>
      </form>
    </v-card>
  </v-dialog>
</template>

<style scoped>
.foot {
  gap: 8px;
}
</style>
