<script setup lang="ts">
import { computed } from 'vue'

import type { Outcome, Variant } from '@/shared/api/types'
import { text } from '@/shared/text'
import { criterionKinds, handTasks, joints, loadRoles, motions, outcomes } from './sheetWords'

/** One way of doing the test, as it is taught. */
const props = defineProps<{ variant: Variant; alone: boolean }>()

const facts = computed(() => {
  const v = props.variant
  const hands = v.hands.map((hand) => `${hand.placement}${hand.task ? ` (${handTasks[hand.task]})` : ''}`)
  const ranges = v.joints.map((range) => {
    const words = [range.joint ? joints[range.joint] : '', range.motion ? motions[range.motion] : '']
    const degrees = [range.from, range.to].filter((angle) => typeof angle === 'number')
    return `${words.filter(Boolean).join(' ')} ${[...new Set(degrees)].join(' to ')}°`.replace(' °', '')
  })
  return [
    { label: text.sheet.position, value: v.patient_position },
    { label: text.sheet.examiner, value: v.examiner_position },
    { label: text.sheet.hands, value: hands.join('\n') },
    { label: text.sheet.joints, value: ranges.join('; ') },
    { label: text.sheet.equipment, value: v.equipment.join(', ') },
    { label: text.sheet.viewpoint, value: v.viewpoint },
    { label: text.sheet.say, value: v.patient_script },
    { label: text.sheet.show, value: v.demonstration },
  ].filter((fact) => fact.value)
})
const steps = computed(() =>
  props.variant.steps.map((step) => ({
    text: step.text,
    notes: [
      step.phase,
      typeof step.hold_seconds === 'number' ? text.sheet.hold(String(step.hold_seconds)) : '',
      typeof step.repetitions === 'number' ? text.sheet.times(String(step.repetitions)) : '',
      typeof step.degrees === 'number'
        ? `${step.degrees}°${typeof step.degrees_to === 'number' ? ` to ${step.degrees_to}°` : ''}`
        : '',
      step.optional ? text.sheet.optional : '',
    ].filter(Boolean),
  })),
)
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
    <dl v-if="facts.length">
      <template v-for="fact in facts" :key="fact.label">
        <dt>{{ fact.label }}</dt>
        <dd class="pre-line" dir="auto">{{ fact.value }}</dd>
      </template>
    </dl>
    <ol v-if="steps.length">
      <li v-for="(step, index) in steps" :key="index" class="pre-line" dir="auto">
        {{ step.text }}
        <span v-if="step.notes.length" class="muted small">({{ step.notes.join(', ') }})</span>
      </li>
    </ol>
    <p v-else class="muted">{{ text.sheet.nothing }}</p>
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
            </p>
          </dd>
        </template>
      </dl>
    </template>
    <template v-if="variant.targets.length">
      <h3>{{ text.sheet.loads }}</h3>
      <ul>
        <li v-for="(target, index) in variant.targets" :key="index" dir="auto">
          {{ target.structure }}
          <span v-if="target.role" class="muted">{{ loadRoles[target.role] }}</span>
          <span v-if="target.phase" class="muted">, {{ target.phase }}</span>
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
dl {
  display: grid;
  grid-template-columns: minmax(84px, max-content) 1fr;
  gap: 3px 14px;
  margin: 6px 0 10px;
}
dt {
  color: var(--muted);
  font-size: 0.875rem;
}
.readings dt {
  color: inherit;
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
  dl {
    grid-template-columns: 1fr;
  }
}
</style>
