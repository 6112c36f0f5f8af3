<script setup lang="ts">
import { mdiDeleteOutline, mdiPencilOutline } from '@mdi/js'
import ForestAxis from '@/figures/ForestAxis.vue'
import ForestRow from '@/figures/ForestRow.vue'
import type { Pooled, ResultView, StudyView } from '@/shared/api/types'
import IconButton from '@/shared/layout/IconButton.vue'
import SampleMark from '@/shared/layout/SampleMark.vue'
import WideBlock from '@/shared/layout/WideBlock.vue'
import { text } from '@/shared/text'
import AppraisalButton from './AppraisalButton.vue'
import ResultTrace from './ResultTrace.vue'
import {
  about,
  arms,
  correctedShare,
  flowWords,
  label,
  resultWords,
  rowId,
  share,
  togetherWords,
} from './resultWords'

/** The results of a test as a paired forest: sensitivity and specificity of each beside each other, summary below. */
defineProps<{ results: ResultView[]; pooled: Pooled | null; editable: boolean }>()
const emit = defineEmits<{
  edit: [result: ResultView]
  prefer: [result: ResultView]
  remove: [result: ResultView]
  appraise: [study: StudyView]
}>()

const together = ({ together, others }: ResultView) =>
  together
    ? togetherWords(
        others.map((test) => test.name),
        together.rule,
      )
    : ''
/** That each person was counted once is what everybody expects; it stands with the rest. */
const differs = (result: ResultView) => {
  const unit = result.unit === 'side' ? result.unit : null
  return [together(result), ...resultWords({ ...result, unit })].filter(Boolean)
}
const full = (result: ResultView) =>
  [...about(result), ...differs(result), result.page, result.note, result.study.note]
    .filter(Boolean)
    .join(' · ')
const MARKS = [0, 25, 50, 75, 100]
</script>

<template>
  <WideBlock class="forest-block" :label="text.study.title">
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
            <ForestAxis :marks="MARKS" />
          </td>
          <td></td>
          <td class="plot">
            <ForestAxis :marks="MARKS" />
          </td>
          <td class="no-print"></td>
        </tr>
      </thead>
      <tbody>
        <tr
          v-for="result in results"
          :id="rowId(result.id)"
          :key="result.id"
          :class="{ out: result.left_out, asked: $route.hash === `#${rowId(result.id)}` }"
          data-test="result-row"
        >
          <th scope="row">
            <AppraisalButton
              :study="result.study"
              aspect="accuracy"
              :editable="editable"
              :label="label(result)"
              @appraise="emit('appraise', $event)"
            />
            <span
              class="reference"
              dir="auto"
              :title="result.study.cited?.citation ?? result.study.reference"
            >
              {{ label(result) }}
            </span>
            <span v-if="differs(result).length" class="about differs" dir="auto">
              {{ differs(result).join(' · ') }}
            </span>
            <span class="about" :title="full(result)">
              <SampleMark v-if="result.sample" />
              {{ about(result).join(' · ') }}
            </span>
            <span v-for="line in flowWords(result)" :key="line" class="about flow" data-test="flow-said">
              {{ line }}
            </span>
            <ResultTrace class="about" :result="result" />
            <span v-if="!result.learners_see" class="about why" data-test="hidden-from-learners">
              {{ text.settings.hidden }}
            </span>
            <span v-if="result.left_out" class="about why">
              {{ text.result.leftOut[result.left_out.code] }}
              <v-btn
                v-if="editable && result.left_out.code === 'same_people'"
                class="no-print"
                size="small"
                data-test="prefer-result"
                @click="emit('prefer', result)"
              >
                {{ text.result.prefer }}
              </v-btn>
            </span>
          </th>
          <template v-for="(part, key) in arms(result.counts)" :key="key">
            <td class="numbers" :data-label="text.study[key === 'se' ? 'sensitivity' : 'specificity']">
              <template v-if="part">
                <b>{{
                  part.n ? share(result.accuracy[key === 'se' ? 'sensitivity' : 'specificity']) : text.unknown
                }}</b>
                <small>{{ text.study.people(part.correct, part.n) }}</small>
                <small
                  v-if="result.verified"
                  class="corrected"
                  :title="text.flow.correctedHint"
                  data-test="corrected"
                >
                  {{ correctedShare(result, key === 'se' ? 'sensitivity' : 'specificity') }}
                </small>
              </template>
              <span v-else class="muted">{{ text.study.oneArmed }}</span>
            </td>
            <td class="plot">
              <ForestRow
                :share="result.accuracy[key === 'se' ? 'sensitivity' : 'specificity']"
                :n="part?.n ?? 0"
              />
            </td>
          </template>
          <td v-if="editable" class="actions no-print">
            <IconButton
              :icon="mdiPencilOutline"
              :label="`${text.study.edit}: ${label(result)}`"
              :hint="text.study.edit"
              data-test="edit-result"
              @click="emit('edit', result)"
            />
            <IconButton
              :icon="mdiDeleteOutline"
              :label="`${text.study.remove}: ${label(result)}`"
              :hint="text.study.remove"
              data-test="remove-result"
              @click="emit('remove', result)"
            />
          </td>
        </tr>
      </tbody>
      <tfoot v-if="pooled && pooled.k > 1">
        <tr>
          <th scope="row">
            {{ text.study.summary }}<span class="about">{{ text.models[pooled.model] }}</span>
          </th>
          <td class="numbers" :data-label="text.study.sensitivity">
            <b>{{ share(pooled.sensitivity) }}</b>
          </td>
          <td class="plot"><ForestRow :share="pooled.sensitivity" summary /></td>
          <td class="numbers" :data-label="text.study.specificity">
            <b>{{ share(pooled.specificity) }}</b>
          </td>
          <td class="plot"><ForestRow :share="pooled.specificity" summary /></td>
          <td class="no-print"></td>
        </tr>
      </tfoot>
    </table>
  </WideBlock>
</template>

<style scoped>
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
.corrected {
  white-space: normal;
}
.about:not(.trace, .flow, .differs, .why) {
  overflow-wrap: anywhere;
  display: -webkit-box;
  overflow: hidden;
  -webkit-box-orient: vertical;
  -webkit-line-clamp: 2;
}
.flow,
.differs {
  color: inherit;
}
.why {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 4px 8px;
}
/* The one that somebody came for. */
.asked {
  background: rgba(var(--v-theme-primary), 0.1);
}
/* What is not in the pool stands back; its words stay readable. */
.out .plot {
  opacity: 0.45;
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
.actions {
  text-align: right;
  white-space: nowrap;
}
.actions :deep(button) {
  margin-left: 8px;
}
/* On a phone each report stands on its own line, its two figures below it, each beside its interval. */
@media screen and (max-width: 600px) {
  .forest {
    display: block;
    min-width: 0;
  }
  thead,
  tbody,
  tfoot {
    display: block;
  }
  tr {
    display: grid;
    grid-template-columns: 128px minmax(0, 1fr);
    align-items: center;
    padding: 6px 0;
  }
  thead tr:first-child,
  thead .axis td:not(:nth-child(3)),
  tfoot td.no-print {
    display: none;
  }
  thead .axis td {
    grid-column: 2;
  }
  th,
  td.actions {
    grid-column: 1 / -1;
  }
  .numbers {
    text-align: left;
  }
  /* For half of the last figure of the axis. */
  .plot {
    padding-right: 10px;
  }
  .numbers::before {
    display: block;
    color: var(--muted);
    font-size: 0.75rem;
    content: attr(data-label);
  }
}
@media print {
  .forest-block {
    /* For the last figure of the axis. */
    padding-right: 12px;
  }
  .forest {
    min-width: 0;
    font-size: 0.8rem;
  }
  .numbers {
    white-space: normal;
  }
  /* The summary belongs at the end, not at the foot of every sheet of paper. */
  tfoot {
    display: table-row-group;
  }
}
</style>
