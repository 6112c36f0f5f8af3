<script setup lang="ts">
import { mdiClose, mdiPlus } from '@mdi/js'
import { computed } from 'vue'

import { useConditions } from '@/shared/api/queries'
import IconButton from '@/shared/layout/IconButton.vue'
import ShareField from '@/shared/question/ShareField.vue'
import { text } from '@/shared/text'
import { question, type PlanQuestion } from './planDraft'
import PlanActions from './PlanActions.vue'

/** The conditions that an examination decides about, while the plan is written. */
const questions = defineModel<PlanQuestion[]>({ required: true })
const props = defineProps<{ region: string; of: (field: string) => string[] }>()

const words = text.plan.questions
const conditions = useConditions()
const offered = computed(() => (conditions.data.value ?? []).filter((it) => it.region === props.region))
const names = (nth: number) =>
  offered.value
    .map((it) => it.name)
    .filter((name) => !questions.value.some((it, at) => at !== nth && it.condition === name))

function set(nth: number, change: Partial<PlanQuestion>) {
  questions.value = questions.value.map((it, at) => (at === nth ? { ...it, ...change } : it))
}
const label = (it: PlanQuestion, field: 'pre_test' | 'reassure_below' | 'treat_above') =>
  ({
    pre_test: words.preTest,
    reassure_below: words.reassure,
    treat_above: words.upper(words.actions[it.above ?? 'treat']),
  })[field]
/** Another condition has a probability of its own. */
function choose(nth: number, condition: string) {
  const usual = offered.value.find((it) => it.name === condition)?.pre_test ?? null
  set(nth, { condition, pre_test: usual })
}
</script>

<template>
  <fieldset data-test="plan-questions">
    <legend>{{ words.title }}</legend>
    <p
      v-for="fault in of('questions').slice(0, 1)"
      v-show="!questions.length"
      :key="fault"
      class="failure small"
    >
      {{ fault }}
    </p>
    <div v-for="(it, nth) in questions" :key="nth" class="question" data-test="plan-question">
      <v-select
        class="condition"
        :model-value="it.condition || null"
        :items="names(nth)"
        :label="words.condition"
        :error-messages="of(`questions[${nth}].condition`)"
        density="compact"
        hide-details="auto"
        data-test="question-condition"
        @update:model-value="choose(nth, $event)"
      />
      <ShareField
        v-for="field in ['pre_test', 'reassure_below', 'treat_above'] as const"
        :key="field"
        :model-value="it[field]"
        :label="label(it, field)"
        :errors="of(`questions[${nth}].${field}`)"
        :data-test="`question-${field}`"
        @update:model-value="set(nth, { [field]: $event })"
      />
      <IconButton
        v-if="questions.length > 1"
        :icon="mdiClose"
        :label="words.remove(it.condition)"
        @click="questions = questions.filter((_, at) => at !== nth)"
      />
      <PlanActions
        class="actions"
        :question="it"
        :of="(field) => of(`questions[${nth}].${field}`)"
        @change="set(nth, $event)"
      />
    </div>
    <v-btn
      v-if="questions.length < Math.min(6, offered.length)"
      size="small"
      variant="text"
      :prepend-icon="mdiPlus"
      data-test="add-question"
      @click="questions = [...questions, question()]"
    >
      {{ words.add }}
    </v-btn>
    <p v-if="questions.length > 1" class="small muted">{{ words.several }}</p>
  </fieldset>
</template>

<style scoped>
fieldset {
  min-width: 0;
  padding: 0;
  border: 0;
}
legend {
  padding: 0;
  margin-bottom: 6px;
  font-weight: 600;
}
.question {
  display: grid;
  grid-template-columns: minmax(0, 2fr) repeat(3, minmax(0, 1fr)) 32px;
  gap: 8px;
  align-items: start;
  margin-bottom: 10px;
}
.actions {
  grid-column: 1 / -1;
}
@media screen and (max-width: 700px) {
  .question {
    grid-template-columns: repeat(3, minmax(0, 1fr)) 32px;
  }
  .condition {
    grid-column: 1 / -1;
  }
}
@media screen and (max-width: 600px) {
  .question {
    grid-template-columns: repeat(2, minmax(0, 1fr));
  }
  .question > :nth-child(2) {
    grid-column: 1 / -1;
  }
}
</style>
