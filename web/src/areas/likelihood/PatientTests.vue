<script setup lang="ts">
import { computed } from 'vue'

import type { Crossing, PatientTest, ShareEstimate } from '@/shared/api/types'
import { withDecimals, percentPoint } from '@/shared/format'
import SampleMark from '@/shared/layout/SampleMark.vue'
import SheetLink from '@/shared/question/SheetLink.vue'
import { text } from '@/shared/text'
import type { Found } from './usePatientState'

/** The tests for the condition: what each would tell now, and what was found with it. */
const props = defineProps<{ tests: PatientTest[]; findings: Found[]; looked: string | null }>()
const emit = defineEmits<{ found: [test: string, positive: boolean]; look: [test: string] }>()

const words = text.likelihood.patient
const told = (test: PatientTest) => test.information ?? -1
/** What was found stands first, in its order; then what would tell most. */
const place = (test: PatientTest) => {
  const nth = props.findings.findIndex((it) => it.test === test.test)
  return nth < 0 ? props.findings.length : nth
}
const ordered = computed(() => [...props.tests].sort((a, b) => place(a) - place(b) || told(b) - told(a)))
const result = (id: string) => props.findings.find((it) => it.test === id)?.positive ?? null
const ends = (test: PatientTest) => [
  { positive: true, after: test.after_positive, crossing: test.crossing_positive },
  { positive: false, after: test.after_negative, crossing: test.crossing_negative },
]
const said = (after: ShareEstimate, crossing?: Crossing | null) =>
  `→ ${percentPoint(after)}${crossing?.crosses ? ` ${words.zones[crossing.to]}` : ''}`
</script>

<template>
  <section data-test="patient-tests">
    <h2>{{ words.tests }}</h2>
    <p class="small muted">{{ words.testsAbout }}</p>
    <table>
      <tbody>
        <tr
          v-for="test in ordered"
          :key="test.test"
          :class="{ looked: test.test === looked }"
          data-test="patient-test"
        >
          <th scope="row">
            <button
              type="button"
              class="look"
              dir="auto"
              :aria-pressed="test.test === looked"
              :title="words.look(test.name)"
              @click="emit('look', test.test)"
            >
              {{ test.name }}
            </button>
            <small class="muted">
              <SampleMark v-if="test.sample" />
              {{ text.evidence[test.evidence] }}
              <span v-if="test.information != null && result(test.test) === null" :title="words.bitsHint">
                · {{ words.bitsValue(withDecimals(test.information, 2)) }}
              </span>
              ·
              <SheetLink :test="test.test">{{ text.review.sheet }}</SheetLink>
            </small>
          </th>
          <td v-for="end in ends(test)" :key="String(end.positive)">
            <button
              v-if="end.after || result(test.test) === end.positive"
              type="button"
              class="result"
              :class="end.positive ? 'positive' : 'negative'"
              :aria-pressed="result(test.test) === end.positive"
              :data-test="end.positive ? 'found-positive' : 'found-negative'"
              @click="emit('found', test.test, end.positive)"
            >
              <span class="visually-hidden">{{ test.name }}:</span>
              <b>{{ end.positive ? words.positive : words.negative }}</b>
              <small v-if="result(test.test) === null && end.after">{{
                said(end.after, end.crossing)
              }}</small>
              <small v-else-if="result(test.test) === end.positive">{{ words.found }}</small>
              <small v-else>&nbsp;</small>
            </button>
            <span v-else class="small muted">{{ text.unknown }}</span>
          </td>
        </tr>
      </tbody>
    </table>
  </section>
</template>

<style scoped>
table {
  width: 100%;
  margin-top: 6px;
  border-collapse: collapse;
}
tr {
  border-top: 1px solid var(--line);
}
tr.looked {
  background: rgba(var(--v-theme-primary), 0.07);
}
th,
td {
  padding: 4px 6px;
  text-align: left;
  font-weight: 400;
  vertical-align: middle;
}
td {
  width: 118px;
  padding-left: 0;
}
.look {
  min-height: 24px;
  padding: 0;
  border: 0;
  background: none;
  color: inherit;
  font: inherit;
  font-weight: 650;
  text-align: left;
  cursor: pointer;
}
.look:hover {
  text-decoration: underline;
}
small {
  display: block;
  font-size: 0.75rem;
}
.result {
  display: block;
  width: 100%;
  padding: 3px 8px;
  border: 1px solid currentColor;
  background: none;
  font: inherit;
  text-align: left;
  cursor: pointer;
}
.result.positive {
  border-radius: 14px;
  color: var(--raises);
}
.result.negative {
  border-radius: 2px;
  color: var(--lowers);
}
.result small {
  white-space: nowrap;
}
.result[aria-pressed='true'] {
  border-width: 2px;
  background: currentColor;
}
.result[aria-pressed='true'] > * {
  color: rgb(var(--v-theme-background));
}
@media screen and (max-width: 600px) {
  table,
  tbody {
    display: block;
  }
  tr {
    display: grid;
    grid-template-columns: 1fr 1fr;
    gap: 4px 8px;
    padding: 6px 0;
  }
  th {
    grid-column: 1 / -1;
  }
  th,
  td {
    width: auto;
    padding: 0;
  }
  .look {
    min-height: 44px;
  }
  .result {
    min-height: 44px;
  }
}
</style>
