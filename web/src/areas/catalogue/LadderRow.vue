<script setup lang="ts">
import { computed } from 'vue'

import StatusMark from '@/areas/review/StatusMark.vue'
import LadderRung from '@/figures/LadderRung.vue'
import type { LadderScale } from '@/figures/logScale'
import type { Answer, TestRow } from '@/shared/api/types'
import { percentInterval, percentPoint } from '@/shared/format'
import SampleMark from '@/shared/layout/SampleMark.vue'
import SheetLink from '@/shared/question/SheetLink.vue'
import { may } from '@/shared/session/session'
import { text } from '@/shared/text'

const props = defineProps<{
  row: TestRow
  axis: LadderScale
  width: number
  answer?: Answer | undefined
  picked: boolean
}>()
const emit = defineEmits<{ pick: [] }>()

const weight = computed(() =>
  props.row.studies ? text.catalogue.studies(props.row.studies) : text.evidence[props.row.evidence],
)
</script>

<template>
  <tr
    role="row"
    :class="{ picked }"
    data-test="ladder-row"
    @mouseenter="emit('pick')"
    @focusin="emit('pick')"
  >
    <th scope="row" role="rowheader">
      <SheetLink class="test-link" :test="row.id" :title="row.name">
        {{ row.name }}
      </SheetLink>
      <p class="about" :title="row.positive_finding">
        <!-- First, so that a narrow page cuts off other words. -->
        <SampleMark v-if="row.sample" />
        <StatusMark v-if="row.status !== 'published'" :status="row.status" />
        <template v-if="row.findings && may('write_sheets')"
          ><span class="found">{{ text.catalogue.findings(row.findings) }}</span> ·
        </template>
        <template v-if="row.basis">{{ text.sheet.basis(text.basis[row.basis]) }} · </template>{{ weight }} ·
        <template v-if="row.other_conditions.length"
          ><span dir="auto">{{ text.catalogue.also(row.other_conditions.join(', ')) }}</span> ·
        </template>
        <span dir="auto">{{ row.positive_finding }}</span>
      </p>
    </th>
    <td role="cell" class="rung">
      <LadderRung
        :axis="axis"
        :width="width"
        :name="row.name"
        :evidence="row.evidence"
        :standing="row.standing"
        :positive="row.summary?.lr_positive"
        :negative="row.summary?.lr_negative"
      />
    </td>
    <td role="cell" class="numeric raises">
      <template v-if="answer?.after_positive">
        <b>{{ percentPoint(answer.after_positive) }}</b>
        <small>{{ percentInterval(answer.after_positive) }}</small>
      </template>
      <span v-else class="muted">–</span>
    </td>
    <td role="cell" class="numeric lowers">
      <template v-if="answer?.after_negative">
        <b>{{ percentPoint(answer.after_negative) }}</b>
        <small>{{ percentInterval(answer.after_negative) }}</small>
      </template>
      <span v-else class="muted">–</span>
    </td>
  </tr>
</template>

<style scoped>
tr {
  border-bottom: 1px solid var(--line);
}
tr.picked {
  background: rgba(var(--v-theme-primary), 0.07);
}
th,
td {
  padding: 2px 6px;
  text-align: left;
  vertical-align: middle;
}
td.rung {
  padding: 0;
}
td.numeric {
  text-align: right;
}
.test-link {
  display: -webkit-box;
  overflow: hidden;
  overflow-wrap: anywhere;
  -webkit-box-orient: vertical;
  -webkit-line-clamp: 3;
  color: inherit;
  font-weight: 650;
  text-decoration: none;
}
.test-link:hover {
  text-decoration: underline;
}
.about .sample-mark {
  margin-right: 4px;
}
.about {
  overflow-wrap: anywhere;
  display: -webkit-box;
  overflow: hidden;
  -webkit-box-orient: vertical;
  -webkit-line-clamp: 2;
  line-height: 1.3;
  font-weight: 400;
  font-size: 0.78rem;
  color: var(--muted);
}
.found {
  font-weight: 600;
}
small {
  display: block;
  color: var(--muted);
  font-size: 0.75rem;
}
.raises b {
  color: var(--raises);
}
.lowers b {
  color: var(--lowers);
}
@media screen and (max-width: 600px) {
  tr {
    display: grid;
    grid-template-columns: minmax(0, 1fr) 68px 68px;
    align-items: center;
  }
  th {
    grid-column: 1 / -1;
  }
  .test-link {
    padding: 10px 0;
  }
}
/* Nothing can be opened on paper. */
@media print {
  .about {
    display: block;
    font-size: 0.72rem;
  }
}
</style>
