<script setup lang="ts">
import { computed } from 'vue'

import type { DerivedStep, Outcome, Variant } from '@/shared/api/types'
import { text } from '@/shared/text'
import FactList from './FactList.vue'
import {
  before,
  criterionNotes,
  facts,
  inabilityLine,
  levelRange,
  measuring,
  stepNotes,
} from './sheetSentences'
import { criterionKinds, loadRoles, outcomes } from './sheetWords'

/** One way of doing the test, as it is taught. */
const props = defineProps<{ variant: Variant; derived?: DerivedStep[]; alone: boolean }>()

const steps = computed(() =>
  props.variant.steps.map((step, index) => ({
    text: step.text,
    notes: stepNotes(step, props.derived?.[index]),
  })),
)
const levels = computed(() => {
  const { levels, unit } = props.variant.grading
  return levels.map((level) => ({ ...level, range: levelRange(level.from, level.to, unit) }))
})
const readings = computed(() =>
  (Object.keys(outcomes) as Outcome[])
    .map((outcome) => ({
      outcome,
      criteria: props.variant.criteria.filter((criterion) => criterion.outcome === outcome),
    }))
    .filter((group) => group.criteria.length),
)
</script>

<template>
  <div>
    <p v-if="!alone && variant.difference" class="difference" dir="auto">
      {{ variant.difference }} {{ variant.effect }}
    </p>
    <p v-if="variant.origin && !alone" class="small muted" dir="auto">
      {{ text.sheet.origin }} {{ variant.origin }}
    </p>
    <FactList :facts="facts(variant)" />
    <FactList :title="text.sheet.before" :facts="before(variant)" />
    <ol v-if="steps.length">
      <li v-for="(step, index) in steps" :key="index" class="pre-line" dir="auto">
        {{ step.text }}
        <span v-if="step.notes.length" class="muted small">({{ step.notes.join(', ') }})</span>
      </li>
    </ol>
    <p v-else class="muted">{{ text.sheet.nothing }}</p>
    <FactList :title="text.sheet.measuring" :facts="measuring(variant)" />
    <template v-if="readings.length">
      <h3>{{ text.sheet.criteria }}</h3>
      <dl class="readings">
        <template v-for="group in readings" :key="group.outcome">
          <dt>
            <b>{{ outcomes[group.outcome] }}</b>
          </dt>
          <dd>
            <p v-for="(criterion, index) in group.criteria" :key="index" dir="auto">
              <span v-if="criterion.phase" class="muted">{{ criterion.phase }}: </span>{{ criterion.text }}
              <span
                v-if="criterion.kind && ['positive', 'equivocal'].includes(group.outcome)"
                class="muted small"
                >{{ criterionKinds[criterion.kind] }}</span
              >
              <span v-if="criterionNotes(criterion).length" class="muted small">
                ({{ criterionNotes(criterion).join('; ') }})
              </span>
            </p>
          </dd>
        </template>
      </dl>
    </template>
    <template v-if="levels.length">
      <h3>{{ text.sheet.levels }}: {{ variant.grading.name }}</h3>
      <ol>
        <li v-for="level in levels" :key="level.name" dir="auto">
          {{ level.name }}<template v-if="level.range">, {{ level.range }}</template>
          <span v-if="level.outcome" class="muted small"> {{ outcomes[level.outcome] }}</span>
        </li>
      </ol>
    </template>
    <template v-if="variant.inability.length">
      <h3>{{ text.sheet.unable }}</h3>
      <ul>
        <li v-for="(it, index) in variant.inability" :key="index" dir="auto">{{ inabilityLine(it) }}</li>
      </ul>
    </template>
    <template v-if="variant.targets.length">
      <h3>{{ text.sheet.loads }}</h3>
      <ul>
        <li v-for="(target, index) in variant.targets" :key="index" dir="auto">
          {{ target.structure }}
          <span v-if="target.role" class="muted">{{ loadRoles[target.role] }}</span>
          <span v-if="target.phase" class="muted">, {{ target.phase }}</span>
          <span v-if="target.condition" class="muted">, {{ text.sheet.about(target.condition) }}</span>
        </li>
      </ul>
    </template>
  </div>
</template>

<style scoped>
.difference {
  margin-bottom: 6px;
  font-style: italic;
}
.readings {
  display: grid;
  grid-template-columns: minmax(84px, max-content) 1fr;
  gap: 3px 14px;
  margin: 6px 0 10px;
}
ol,
ul {
  padding-left: 1.3em;
}
li {
  margin-bottom: 4px;
}
h3 {
  margin: 12px 0 2px;
}
@media (max-width: 600px) {
  .readings {
    grid-template-columns: 1fr;
  }
}
</style>
