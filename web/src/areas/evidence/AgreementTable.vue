<script setup lang="ts">
import { mdiDeleteOutline, mdiPencilOutline } from '@mdi/js'
import { computed, ref } from 'vue'

import AgreementBar from '@/figures/AgreementBar.vue'
import type { AgreementView, StudyView } from '@/shared/api/types'
import { coefficient, coefficientInterval } from '@/shared/format'
import IconButton from '@/shared/layout/IconButton.vue'
import SampleMark from '@/shared/layout/SampleMark.vue'
import WideBlock from '@/shared/layout/WideBlock.vue'
import { text } from '@/shared/text'
import { useWidth } from '@/shared/useWidth'
import AgreementFigures from './AgreementFigures.vue'
import { agreementNotes } from './agreementWords'
import AppraisalButton from './AppraisalButton.vue'
import { setupWords } from './setupWords'

/** The agreement results of a test: each with its coefficient on one axis, and all its figures when asked for. */
const props = defineProps<{ agreements: AgreementView[]; editable: boolean }>()
const emit = defineEmits<{
  edit: [view: AgreementView]
  remove: [view: AgreementView]
  appraise: [study: StudyView]
}>()

const column = ref<HTMLElement | null>(null)
const width = useWidth(column, 230)
const label = ({ study }: AgreementView) => study.cited?.label ?? study.reference
const about = (view: AgreementView) =>
  [view.finding, view.examiners, view.interval, view.study.population].filter(Boolean).join(' · ')
const full = (view: AgreementView) =>
  [about(view), ...setupWords(view.study.setup), view.page, view.note].filter(Boolean).join(' · ')
const who = ({ between, answer }: AgreementView) =>
  text.agreement.who(between, answer.raters, answer.subjects)
const schemes = computed(() => [
  ...new Set(
    props.agreements.flatMap(({ answer }) =>
      answer.headline ? [text.agreement.schemes[answer.headline.size.scheme]] : [],
    ),
  ),
])
const unit = ({ figures }: AgreementView) => (figures?.kind === 'measurements' ? figures.unit : '')
</script>

<template>
  <WideBlock :label="text.agreement.title">
    <table class="agreements">
      <thead>
        <tr>
          <th scope="col">{{ text.study.study }}</th>
          <th scope="col">{{ text.agreement.whom }}</th>
          <th scope="col" class="numbers">{{ text.agreement.coefficient }}</th>
          <th scope="col" class="plot">
            <div ref="column" class="ends" aria-hidden="true">
              <span>{{ text.agreement.chance }}</span>
              <span>{{ text.agreement.perfect }}</span>
            </div>
            <span class="visually-hidden">{{ text.agreement.axis }}</span>
          </th>
          <th scope="col" class="actions no-print">
            <span class="visually-hidden">{{ text.study.actions }}</span>
          </th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="view in agreements" :key="view.id" data-test="agreement-row">
          <th scope="row">
            <AppraisalButton
              :study="view.study"
              aspect="agreement"
              :editable="editable"
              :label="label(view)"
              @appraise="emit('appraise', $event)"
            />
            <span class="reference" dir="auto" :title="view.study.cited?.citation ?? view.study.reference">{{
              label(view)
            }}</span>
            <span class="about" :title="full(view)">
              <SampleMark v-if="view.sample" /> {{ about(view) }}
            </span>
            <small v-if="!view.learners_see" class="note">{{ text.settings.hidden }}</small>
            <small v-for="note in agreementNotes(view.answer)" :key="note" class="note">{{ note }}</small>
            <details>
              <summary class="small" data-test="agreement-figures">{{ text.agreement.all }}</summary>
              <AgreementFigures :answer="view.answer" :unit="unit(view)" />
            </details>
          </th>
          <td class="small">{{ who(view) }}</td>
          <td class="numbers">
            <template v-if="view.answer.headline">
              <b>{{ coefficient(view.answer.headline.estimate.estimate) }}</b>
              ({{ coefficientInterval(view.answer.headline.estimate) }})
              <small>
                {{ text.agreement.measures[view.answer.headline.measure] }},
                <span :title="text.agreement.schemes[view.answer.headline.size.scheme]">{{
                  text.agreement.sizes[view.answer.headline.size.word]
                }}</span>
              </small>
            </template>
            <span v-else class="muted">{{ text.agreement.notEstimable }}</span>
          </td>
          <td class="plot">
            <AgreementBar
              v-if="view.answer.headline"
              :width="width"
              :estimate="view.answer.headline.estimate"
            />
          </td>
          <td class="actions no-print">
            <template v-if="editable">
              <IconButton
                :icon="mdiPencilOutline"
                :label="`${text.study.edit}: ${label(view)}`"
                :hint="text.study.edit"
                data-test="edit-agreement"
                @click="emit('edit', view)"
              />
              <IconButton
                :icon="mdiDeleteOutline"
                :label="`${text.study.remove}: ${label(view)}`"
                :hint="text.study.remove"
                data-test="remove-agreement"
                @click="emit('remove', view)"
              />
            </template>
          </td>
        </tr>
      </tbody>
    </table>
    <p v-if="schemes.length" class="small muted">{{ text.agreement.wordsAfter(schemes) }}</p>
  </WideBlock>
</template>

<style scoped>
.agreements {
  width: 100%;
  min-width: 760px;
  border-collapse: collapse;
  table-layout: fixed;
}
th,
td {
  padding: 5px 10px 5px 0;
  text-align: left;
  vertical-align: top;
}
thead th {
  font-size: 0.8125rem;
  vertical-align: bottom;
}
thead th:first-child {
  width: 38%;
}
thead th:nth-child(2) {
  width: 15%;
}
tbody tr {
  border-top: 1px solid var(--line);
}
.numbers {
  font-size: 0.8125rem;
}
.numbers b {
  font-weight: 600;
}
.plot {
  padding-right: 0;
}
.ends {
  display: flex;
  justify-content: space-between;
  color: var(--muted);
  font-size: 0.72rem;
  font-weight: 400;
}
th.actions,
td.actions {
  width: 84px;
  padding-right: 0;
  text-align: right;
  white-space: nowrap;
}
small,
.about {
  display: block;
  color: var(--muted);
  font-size: 0.75rem;
  font-weight: 400;
}
.reference {
  font-size: 0.875rem;
  font-weight: 500;
}
small.note {
  margin-top: 4px;
  color: inherit;
}
details {
  margin-top: 2px;
  font-weight: 400;
}
summary {
  color: var(--muted);
}
.actions :deep(button) {
  margin-left: 8px;
}
@media print {
  .agreements {
    min-width: 0;
  }
  details:not([open]) {
    display: none;
  }
}
</style>
