<script setup lang="ts">
import { mdiFunctionVariant } from '@mdi/js'
import { computed } from 'vue'

import type { Prediction, Summary } from '@/shared/api/types'
import { levelPercent, percent, percentInterval, ratioInterval, ratioPoint } from '@/shared/format'
import WideBlock from '@/shared/layout/WideBlock.vue'
import { text } from '@/shared/text'

/** Measures with their intervals, and the working of each on hover, focus or tap. */
const props = defineProps<{
  summary: Summary
  beside?: { title: string; of: Summary } | null
  /** Where the next study is expected. */
  ahead?: Prediction | null
  workings: Record<keyof typeof text.pooled.measures, string>
  level: number
}>()

type Measure = keyof typeof text.pooled.measures

function cells(
  summary: Summary | null | undefined,
  measure: Measure,
): { point: string; interval: string } | null {
  if (measure === 'sensitivity' || measure === 'specificity') {
    const share = summary?.[measure]
    return share ? { point: percent(share.estimate), interval: percentInterval(share) } : null
  }
  const lr = summary?.[measure]
  return lr ? { point: ratioPoint(lr), interval: ratioInterval(lr) } : null
}
const rows = computed(() =>
  (Object.keys(text.pooled.measures) as Measure[]).map((measure) => ({
    measure,
    main: cells(props.summary, measure),
    beside: cells(props.beside?.of, measure),
    ahead: cells(props.ahead as Summary | null | undefined, measure)?.interval ?? '–',
  })),
)
</script>

<template>
  <WideBlock :label="text.pooled.title">
    <table class="measures">
      <thead>
        <tr>
          <td></td>
          <td></td>
          <th scope="col">{{ text.pooled.level(levelPercent(level)) }}</th>
          <th v-if="ahead" scope="col" :title="text.pool.aheadHint">{{ text.pool.ahead }}</th>
          <th v-if="beside" scope="col">{{ beside.title }}</th>
          <td></td>
        </tr>
      </thead>
      <tbody>
        <tr v-for="row in rows" :key="row.measure" :data-test="`measure-${row.measure}`">
          <th scope="row">{{ text.pooled.measures[row.measure] }}</th>
          <template v-if="row.main">
            <td class="numeric">
              <b>{{ row.main.point }}</b>
            </td>
            <td class="numeric muted">{{ row.main.interval }}</td>
          </template>
          <td v-else colspan="2" class="numeric muted">{{ text.unknown }}</td>
          <td v-if="ahead" class="numeric muted">{{ row.ahead }}</td>
          <td v-if="beside" class="numeric muted">
            {{ row.beside ? `${row.beside.point} (${row.beside.interval})` : '–' }}
          </td>
          <td class="working">
            <v-menu open-on-hover open-on-focus location="start" max-width="380">
              <template #activator="{ props: opener }">
                <v-btn
                  v-bind="opener"
                  class="no-print"
                  variant="text"
                  size="x-small"
                  :icon="mdiFunctionVariant"
                  :aria-label="`${text.pooled.working}: ${text.pooled.measures[row.measure]}`"
                />
              </template>
              <v-card class="padded small">{{ workings[row.measure] }}</v-card>
            </v-menu>
          </td>
        </tr>
      </tbody>
    </table>
  </WideBlock>
</template>

<style scoped>
.measures {
  width: 100%;
  margin: 6px 0;
  border-collapse: collapse;
}
tbody tr {
  border-top: 1px solid var(--line);
}
th,
td {
  padding: 3px 5px 3px 0;
  text-align: left;
  font-weight: 400;
}
thead th {
  color: var(--muted);
  font-size: 0.75rem;
  text-align: right;
}
.numeric {
  text-align: right;
}
.working {
  width: 34px;
  padding: 0;
  text-align: right;
}
</style>
