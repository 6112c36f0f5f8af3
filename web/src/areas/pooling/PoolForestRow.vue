<script setup lang="ts">
import { computed } from 'vue'

import { about, arms, label, resultWords, rowId, share } from '@/areas/evidence/resultWords'
import AppraisalMark from '@/figures/AppraisalMark.vue'
import ForestRow from '@/figures/ForestRow.vue'
import type { AskedAspect } from '@/shared/api/types'
import { percent } from '@/shared/format'
import SampleMark from '@/shared/layout/SampleMark.vue'
import SheetLink from '@/shared/question/SheetLink.vue'
import { text } from '@/shared/text'
import type { Row } from './poolRows'

/** A result in the forest of a pool, and its switch. */
const props = defineProps<{
  of: Row
  asked: AskedAspect | undefined
  marked: boolean
  compared: boolean
  test: string
}>()
const emit = defineEmits<{ toggle: [id: string]; mark: [id: string]; near: [id: string] }>()

function focused(id: string) {
  emit('mark', id)
  emit('near', id)
}

const result = computed(() => props.of.result)
const row = computed(() => props.of.row)
const onlyCompared = computed(
  () => (props.compared && text.pool.onlyCompared[row.value.out?.code ?? '']) || '',
)
const off = computed(() => row.value.out?.code === 'switched_off')
const differs = computed(() => {
  // That each person was counted once is what everybody expects.
  const unit = result.value.unit === 'side' ? result.value.unit : null
  return [props.test, ...resultWords({ ...result.value, unit })].filter(Boolean).join(' · ')
})
const parts = computed(() => {
  const { se, sp } = arms(result.value.counts)
  const { sensitivity, specificity } = result.value.accuracy
  const { weight } = row.value
  return [
    { name: text.study.sensitivity, arm: se, value: sensitivity, weight: weight.sensitivity },
    { name: text.study.specificity, arm: sp, value: specificity, weight: weight.specificity },
  ]
})
</script>

<template>
  <tr
    role="row"
    :class="{ off, marked }"
    data-test="pool-row"
    @mouseenter="emit('mark', result.id)"
    @mouseleave="emit('mark', '')"
  >
    <td role="cell" class="switch no-print">
      <input
        type="checkbox"
        :checked="!off"
        :aria-label="text.pool.take(label(result))"
        data-test="pool-switch"
        @change="emit('toggle', result.id)"
        @mouseenter="emit('near', result.id)"
        @mouseleave="emit('near', '')"
        @focus="focused(result.id)"
        @blur="focused('')"
      />
    </td>
    <th
      v-memo="[result, asked, differs, onlyCompared]"
      scope="row"
      role="rowheader"
      :title="about(result).join(' · ')"
    >
      <AppraisalMark
        v-if="asked"
        class="posts"
        :asked="asked"
        :appraisal="result.study.appraisals.find((it) => it.aspect === 'accuracy')"
      />
      <SheetLink class="report" dir="auto" :test="result.test_id" :hash="`#${rowId(result.id)}`">{{
        label(result)
      }}</SheetLink>
      <SampleMark v-if="result.sample" />
      <span v-if="differs" class="about" dir="auto">{{ differs }}</span>
      <span v-if="onlyCompared" class="about">{{ onlyCompared }}</span>
    </th>
    <template v-for="(part, index) in parts" :key="index">
      <td role="cell" class="numbers" :data-label="part.name">
        <template v-if="part.arm">
          <b>{{ part.arm.n ? share(part.value) : text.unknown }}</b>
          <small>{{ text.study.people(part.arm.correct, part.arm.n) }}</small>
        </template>
        <span v-else class="muted">{{ text.study.oneArmed }}</span>
      </td>
      <td role="cell" class="plot"><ForestRow :share="part.value" :n="part.arm?.n ?? 0" /></td>
      <td role="cell" class="numbers weight">{{ part.weight == null ? '–' : percent(part.weight) }}</td>
    </template>
  </tr>
</template>

<style scoped>
/* Drawn plainly: browsers take long to paint hundreds of their own boxes. */
.switch input {
  display: block;
  width: 18px;
  height: 18px;
  appearance: none;
  border: 1.5px solid var(--muted);
  border-radius: 4px;
}
.switch input:checked {
  border-color: rgb(var(--v-theme-primary));
  background: rgb(var(--v-theme-primary));
}
.switch input:checked::before {
  display: block;
  color: rgb(var(--v-theme-on-primary));
  font-weight: 700;
  font-size: 13px;
  line-height: 15px;
  text-align: center;
  content: '✓';
}
/* The whole corner of the row is what a finger meets. */
@media screen and (max-width: 600px) {
  .switch input {
    position: relative;
    margin: 4px;
  }
  .switch input::after {
    position: absolute;
    inset: -15px;
    content: '';
  }
  .report {
    display: inline-block;
    padding: 12px 0;
  }
}
@media (forced-colors: active) {
  .switch input {
    appearance: auto;
  }
}
.posts {
  float: right;
  overflow: visible;
}
.report {
  margin-right: 6px;
  color: inherit;
  font-weight: 500;
  font-size: 0.875rem;
  text-decoration: none;
}
.report:hover {
  text-decoration: underline;
}
.about,
small {
  display: block;
  color: var(--muted);
  font-size: 0.75rem;
  font-weight: 400;
}
.numbers {
  text-align: right;
  font-size: 0.8125rem;
  white-space: nowrap;
}
.numbers b {
  font-weight: 600;
}
.weight {
  color: var(--muted);
}
.off th,
.off .numbers {
  color: var(--muted);
}
.off .plot {
  opacity: 0.35;
}
.marked {
  background: rgba(var(--v-theme-primary), 0.08);
}
</style>
