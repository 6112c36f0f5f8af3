<script setup lang="ts">
import { mdiDeleteOutline, mdiPencilOutline } from '@mdi/js'
import { computed, ref } from 'vue'

import ForestRow from '@/figures/ForestRow.vue'
import type { Counts, Pooled, ShareEstimate, StudyView } from '@/shared/api/types'
import { percent, percentInterval } from '@/shared/format'
import IconButton from '@/shared/layout/IconButton.vue'
import SampleMark from '@/shared/layout/SampleMark.vue'
import { text } from '@/shared/text'
import { useWidth } from '@/shared/useWidth'
import { setupWords } from './setupWords'

/** The studies of a test as a paired forest: sensitivity and specificity of each beside each other, summary below. */
defineProps<{ studies: StudyView[]; pooled: Pooled | null; editable: boolean }>()
const emit = defineEmits<{ edit: [study: StudyView]; remove: [study: StudyView] }>()

const column = ref<HTMLElement | null>(null)
const width = useWidth(column, 210)

function arm(counts: Counts, correct: 'tp' | 'tn', wrong: 'fn' | 'fp') {
  const [a, b] = [counts[correct], counts[wrong]]
  return a == null || b == null ? null : { correct: a, n: a + b }
}
const arms = (counts: Counts) => ({ se: arm(counts, 'tp', 'fn'), sp: arm(counts, 'tn', 'fp') })
const share = (value?: ShareEstimate | null) =>
  value ? `${percent(value.estimate)} (${percentInterval(value)})` : text.study.oneArmed
const about = (study: StudyView) =>
  [study.population, study.reference_standard, ...setupWords(study.setup)].filter(Boolean)
const axis = computed(() => [0, 25, 50, 75, 100])
const left = (mark: number) => `${6 + (mark / 100) * (width.value - 12)}px`
</script>

<template>
  <div class="scroller">
    <table class="forest">
      <thead>
        <tr>
          <th scope="col">{{ text.study.study }}</th>
          <th
            v-for="measure in ['sensitivity', 'specificity'] as const"
            :key="measure"
            colspan="2"
            scope="colgroup"
          >
            {{ text.study[measure] }}
          </th>
          <th scope="col" class="no-print">
            <span class="visually-hidden">{{ text.study.actions }}</span>
          </th>
        </tr>
        <tr class="axis" aria-hidden="true">
          <td></td>
          <td></td>
          <td class="plot">
            <div ref="column" class="marks">
              <span v-for="mark in axis" :key="mark" :style="{ left: left(mark) }">{{ mark }}</span>
            </div>
          </td>
          <td></td>
          <td class="plot">
            <div class="marks">
              <span v-for="mark in axis" :key="mark" :style="{ left: left(mark) }">{{ mark }}</span>
            </div>
          </td>
          <td class="no-print"></td>
        </tr>
      </thead>
      <tbody>
        <tr v-for="study in studies" :key="study.id" data-test="study-row">
          <th scope="row">
            <span class="reference" dir="auto" :title="study.cited?.citation ?? study.reference">
              {{ study.cited?.label ?? study.reference }}
            </span>
            <span class="about" :title="[...about(study), study.note].filter(Boolean).join(' · ')">
              <SampleMark v-if="study.sample" />
              {{ about(study).join(' · ') }}
            </span>
          </th>
          <template v-for="(part, key) in arms(study.counts)" :key="key">
            <td class="numbers">
              <template v-if="part">
                <b>{{
                  part.n ? share(study.accuracy[key === 'se' ? 'sensitivity' : 'specificity']) : text.unknown
                }}</b>
                <small>{{ text.study.people(part.correct, part.n) }}</small>
              </template>
              <span v-else class="muted">{{ text.study.oneArmed }}</span>
            </td>
            <td class="plot">
              <ForestRow
                :width="width"
                :share="study.accuracy[key === 'se' ? 'sensitivity' : 'specificity']"
                :n="part?.n ?? 0"
              />
            </td>
          </template>
          <td v-if="editable" class="actions no-print">
            <IconButton
              :icon="mdiPencilOutline"
              :label="`${text.study.edit}: ${study.cited?.label ?? study.reference}`"
              :hint="text.study.edit"
              data-test="edit-study"
              @click="emit('edit', study)"
            />
            <IconButton
              :icon="mdiDeleteOutline"
              :label="`${text.study.remove}: ${study.cited?.label ?? study.reference}`"
              :hint="text.study.remove"
              data-test="remove-study"
              @click="emit('remove', study)"
            />
          </td>
        </tr>
      </tbody>
      <tfoot v-if="pooled && pooled.k > 1">
        <tr>
          <th scope="row">
            {{ text.study.summary }}<span class="about">{{ text.models[pooled.model] }}</span>
          </th>
          <td class="numbers">
            <b>{{ share(pooled.sensitivity) }}</b>
          </td>
          <td class="plot"><ForestRow :width="width" :share="pooled.sensitivity" summary /></td>
          <td class="numbers">
            <b>{{ share(pooled.specificity) }}</b>
          </td>
          <td class="plot"><ForestRow :width="width" :share="pooled.specificity" summary /></td>
          <td class="no-print"></td>
        </tr>
      </tfoot>
    </table>
  </div>
</template>

<style scoped>
.scroller {
  overflow-x: auto;
}
.forest {
  width: 100%;
  min-width: 860px;
  border-collapse: collapse;
  table-layout: fixed;
}
th,
td {
  padding: 3px 8px 3px 0;
  text-align: left;
  vertical-align: middle;
}
thead th {
  font-size: 0.8125rem;
}
thead th:first-child {
  width: 31%;
}
thead th:last-child {
  width: 84px;
}
tbody tr,
tfoot tr {
  border-top: 1px solid var(--line);
}
tfoot tr {
  border-top: 2px solid rgb(var(--v-theme-on-background));
}
.plot {
  padding: 0;
}
.numbers {
  text-align: right;
  font-size: 0.8125rem;
  white-space: nowrap;
}
.numbers b {
  font-weight: 600;
}
small,
.about {
  display: block;
  color: var(--muted);
  font-size: 0.75rem;
  font-weight: 400;
}
.about {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.reference {
  display: -webkit-box;
  overflow: hidden;
  overflow-wrap: anywhere;
  -webkit-box-orient: vertical;
  -webkit-line-clamp: 2;
  line-height: 1.3;
  font-weight: 500;
  font-size: 0.875rem;
}
.marks {
  position: relative;
  height: 18px;
}
.marks span {
  position: absolute;
  transform: translateX(-50%);
  font-size: 0.72rem;
  color: var(--muted);
}
.actions {
  text-align: right;
  white-space: nowrap;
}
.actions :deep(button) {
  margin-left: 8px;
}
@media print {
  .forest {
    min-width: 0;
    font-size: 0.8rem;
  }
  .numbers {
    white-space: normal;
  }
  .marks {
    visibility: hidden;
  }
  /* The summary belongs at the end, not at the foot of every sheet of paper. */
  tfoot {
    display: table-row-group;
  }
}
</style>
