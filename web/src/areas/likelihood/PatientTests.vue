<script setup lang="ts">
import { computed } from 'vue'

import type { Crossing, PatientTest, ShareEstimate } from '@/shared/api/types'
import { percentPoint, raises, withDecimals } from '@/shared/format'
import SampleMark from '@/shared/layout/SampleMark.vue'
import SheetLink from '@/shared/question/SheetLink.vue'
import { text } from '@/shared/text'
import type { Found, Shown } from './usePatientState'

/** The tests for the condition: what each would tell now, and what was found with it. */
const props = defineProps<{ tests: PatientTest[]; findings: Found[]; looked: string | null }>()
const emit = defineEmits<{ found: [test: string, shown: Shown]; look: [test: string] }>()

const words = text.likelihood.patient
const told = (test: PatientTest) => test.information ?? -1
/** What was found stands first, in its order; then what would tell most. */
const place = (test: PatientTest) => {
  const nth = props.findings.findIndex((it) => it.test === test.test)
  return nth < 0 ? props.findings.length : nth
}
const ordered = computed(() => [...props.tests].sort((a, b) => place(a) - place(b) || told(b) - told(a)))
const found = (id: string) => props.findings.find((it) => it.test === id) ?? null
const isFound = (id: string, shown: Shown) => {
  const it = found(id)
  if (!it) return false
  return 'level' in shown
    ? 'level' in it && it.level === shown.level
    : 'positive' in it && it.positive === shown.positive
}
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
      <tbody v-for="test in ordered" :key="test.test" :class="{ looked: test.test === looked }">
        <tr data-test="patient-test">
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
              <span v-if="test.information != null && !found(test.test)" :title="words.bitsHint">
                · {{ words.bitsValue(withDecimals(test.information, 2)) }}
              </span>
              ·
              <SheetLink :test="test.test">{{ text.review.sheet }}</SheetLink>
            </small>
          </th>
          <td v-for="end in ends(test)" :key="String(end.positive)">
            <button
              v-if="end.after || isFound(test.test, { positive: end.positive })"
              type="button"
              class="result"
              :class="end.positive ? 'positive' : 'negative'"
              :aria-pressed="isFound(test.test, { positive: end.positive })"
              :data-test="end.positive ? 'found-positive' : 'found-negative'"
              @click="emit('found', test.test, { positive: end.positive })"
            >
              <span class="visually-hidden">{{ test.name }}:</span>
              <b>{{ end.positive ? words.positive : words.negative }}</b>
              <small v-if="!found(test.test) && end.after">{{ said(end.after, end.crossing) }}</small>
              <small v-else-if="isFound(test.test, { positive: end.positive })">{{ words.found }}</small>
              <small v-else>&nbsp;</small>
            </button>
            <span v-else class="small muted">{{ text.unknown }}</span>
          </td>
        </tr>
        <tr v-if="test.levels.length" class="of-levels" data-test="patient-levels">
          <td colspan="3">
            <small class="muted">{{ words.orLevel(test.level_studies) }}</small>
            <div class="levels" role="group" :aria-label="words.levelsOf(test.name)">
              <button
                v-for="level in test.levels"
                :key="level.name"
                type="button"
                class="result"
                :class="raises(level.ratio) ? 'positive' : 'negative'"
                :aria-pressed="isFound(test.test, { level: level.name })"
                :disabled="!level.ratio"
                data-test="found-level"
                @click="emit('found', test.test, { level: level.name })"
              >
                <b dir="auto">{{ level.name }}</b>
                <small v-if="!found(test.test) && level.after">{{ said(level.after, level.crossing) }}</small>
                <small v-else-if="isFound(test.test, { level: level.name })">{{ words.found }}</small>
                <small v-else-if="!level.ratio">{{ text.unknown }}</small>
                <small v-else>&nbsp;</small>
              </button>
            </div>
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
tbody {
  border-top: 1px solid var(--line);
}
tbody.looked {
  background: rgba(var(--v-theme-primary), 0.07);
}
th,
td {
  padding: 4px 6px;
  text-align: left;
  font-weight: 400;
  vertical-align: middle;
}
td:not([colspan]) {
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
.levels {
  display: flex;
  flex-wrap: wrap;
  gap: 4px;
  margin: 2px 0 4px;
}
.levels .result {
  width: auto;
}
.result:disabled {
  opacity: 0.6;
  cursor: default;
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
