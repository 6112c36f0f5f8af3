<script setup lang="ts">
import { computed } from 'vue'

import type { Interpretation } from '@/shared/api/types'
import { text } from '@/shared/text'
import WideBlock from '@/shared/layout/WideBlock.vue'
import { rowCondition, urgentWord } from './sheetSentences'
import TryTable from './TryTable.vue'

/** The interpretation table as it is read, and tried out. */
const props = defineProps<{ table: Interpretation }>()

const rows = computed(() =>
  props.table.rows.map((row) => ({
    ...row,
    cells: props.table.measures.map((measure) => rowCondition(row, measure) || text.interpretation.any),
  })),
)
</script>

<template>
  <section class="reading">
    <h2>{{ text.sheet.interpretation }}</h2>
    <WideBlock :label="text.sheet.interpretation">
      <table>
        <thead>
          <tr>
            <th v-for="measure in table.measures" :key="measure.name" scope="col">{{ measure.name }}</th>
            <th scope="col">{{ text.interpretation.means }}</th>
            <th scope="col">{{ text.interpretation.next }}</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="(row, index) in rows" :key="index">
            <td
              v-for="(cell, at) in row.cells"
              :key="at"
              :class="{ muted: cell === text.interpretation.any }"
            >
              {{ cell }}
            </td>
            <td>
              <b>{{ row.reading }}</b> <span v-if="row.grade" class="muted">({{ row.grade }})</span>
              <span v-if="row.condition" class="muted small"> ({{ text.sheet.about(row.condition) }})</span>
            </td>
            <td>
              {{ row.next_step }}
              <b v-if="row.urgent" class="urgent">{{ urgentWord(row.within_hours) }}</b>
            </td>
          </tr>
        </tbody>
      </table>
    </WideBlock>
    <TryTable :table="table" />
  </section>
</template>

<style scoped>
.reading {
  margin-bottom: 18px;
}
h2 {
  margin-bottom: 4px;
  font-size: 1.05rem;
}
table {
  width: 100%;
  border-collapse: collapse;
  font-size: 0.875rem;
}
th,
td {
  padding: 5px 8px 5px 0;
  text-align: left;
  vertical-align: top;
  border-bottom: 1px solid var(--line);
}
th {
  font-weight: 600;
}
.urgent {
  color: rgb(var(--v-theme-error));
}
</style>
