<script setup lang="ts">
import { mdiPin, mdiPinOutline } from '@mdi/js'
import { computed, ref } from 'vue'

import LadderAxis from '@/figures/LadderAxis.vue'
import LadderRung from '@/figures/LadderRung.vue'
import { ladderScale } from '@/figures/logScale'
import { useConditions } from '@/shared/api/queries'
import type { RatioEstimate, TestRow } from '@/shared/api/types'
import { percent, raises, ratioInterval, ratioPoint } from '@/shared/format'
import IconButton from '@/shared/layout/IconButton.vue'
import SampleMark from '@/shared/layout/SampleMark.vue'
import SheetLink from '@/shared/question/SheetLink.vue'
import { text } from '@/shared/text'
import { useWidth } from '@/shared/useWidth'
import type { LadderGroup } from './ladderGroups'

/** Tests on one axis of likelihood ratios, under their conditions or regions, with both ratios in figures. */
const props = defineProps<{ groups: LadderGroup[]; ahead: boolean; pins: string[] }>()
const emit = defineEmits<{ pin: [test: string] }>()

const words = text.likelihood.ladder
const conditions = useConditions()
const cell = ref<HTMLElement | null>(null)
const width = useWidth(cell, 460)
const axis = computed(() => {
  const shown = props.groups.flatMap(({ rows }) =>
    rows.flatMap((row) => [
      row.summary?.lr_positive,
      row.summary?.lr_negative,
      ...row.levels.map((level) => level.ratio),
      ...(props.ahead ? [row.ahead_positive, row.ahead_negative] : []),
    ]),
  )
  return ladderScale(
    shown.filter((lr): lr is RatioEstimate => !!lr),
    width.value,
  )
})
function usual(group: LadderGroup): string {
  const known = (conditions.data.value ?? []).find(
    (one) => one.region === group.region && one.name === group.condition,
  )
  return known?.pre_test == null ? '' : words.usual(percent(known.pre_test), known.setting)
}
const figures = (row: TestRow) => [row.summary?.lr_negative, row.summary?.lr_positive]
/** A level stands in the lane and the column of the side to which it moves the probability. */
const sides = (ratio?: RatioEstimate | null) => (raises(ratio) ? [null, ratio] : [ratio, null])
const next = (row: TestRow) => [row.ahead_negative, row.ahead_positive]
</script>

<template>
  <table class="ratios" role="table" data-test="ratio-ladder">
    <caption class="visually-hidden">
      {{
        text.catalogue.axis
      }}
    </caption>
    <thead>
      <tr>
        <th scope="col" class="name">{{ text.catalogue.test }}</th>
        <th scope="col" class="axis">
          <span class="visually-hidden">{{ text.catalogue.axis }}</span>
          <div ref="cell"><LadderAxis :axis="axis" :width="width" /></div>
        </th>
        <th scope="col" class="numeric lowers">{{ words.minus }}</th>
        <th scope="col" class="numeric raises">{{ words.plus }}</th>
      </tr>
    </thead>
    <tbody v-for="group in groups" :key="group.key">
      <tr v-if="group.title">
        <th colspan="4" scope="rowgroup" class="group">
          <span dir="auto">{{ group.title }}</span> <small>{{ usual(group) }}</small>
        </th>
      </tr>
      <template v-for="row in group.rows" :key="row.id + row.condition">
        <tr data-test="ratio-row">
          <th scope="row" class="name">
            <div class="title">
              <IconButton
                class="no-print"
                :icon="pins.includes(row.id) ? mdiPin : mdiPinOutline"
                :label="pins.includes(row.id) ? words.unpin(row.name) : words.pin(row.name)"
                :aria-pressed="pins.includes(row.id)"
                data-test="pin"
                @click="emit('pin', row.id)"
              />
              <SheetLink dir="auto" :test="row.id" :title="row.name">{{ row.name }}</SheetLink>
            </div>
            <small class="muted">
              <SampleMark v-if="row.sample" />
              {{ row.studies ? text.catalogue.studies(row.studies) : text.evidence[row.evidence] }}
            </small>
          </th>
          <td class="rung">
            <LadderRung
              :axis="axis"
              :width="width"
              :name="row.name"
              :evidence="row.evidence"
              :standing="row.standing"
              :positive="row.summary?.lr_positive"
              :negative="row.summary?.lr_negative"
              :ahead-positive="ahead ? row.ahead_positive : null"
              :ahead-negative="ahead ? row.ahead_negative : null"
            />
          </td>
          <td v-for="(lr, nth) in figures(row)" :key="nth" class="numeric" :class="nth ? 'raises' : 'lowers'">
            <template v-if="lr">
              <b>{{ ratioPoint(lr) }}</b>
              <small>{{ ratioInterval(lr) }}</small>
              <small v-if="ahead && next(row)[nth]" :title="text.pool.aheadHint"
                >⟨{{ ratioInterval(next(row)[nth]!) }}⟩</small
              >
            </template>
            <span v-else class="muted">–</span>
          </td>
        </tr>
        <tr v-for="level in row.levels" :key="level.name" class="level" data-test="ratio-level">
          <th scope="row" class="name">
            <span dir="auto">{{ level.name }}</span>
            <small>{{ words.ofStudies(row.level_studies) }}</small>
          </th>
          <td class="rung">
            <LadderRung
              :axis="axis"
              :width="width"
              :name="words.level(row.name, level.name)"
              :evidence="row.evidence"
              :positive="raises(level.ratio) ? level.ratio : null"
              :negative="raises(level.ratio) ? null : level.ratio"
            />
          </td>
          <td
            v-for="(lr, nth) in sides(level.ratio)"
            :key="nth"
            class="numeric"
            :class="nth ? 'raises' : 'lowers'"
          >
            <template v-if="lr">
              <b>{{ ratioPoint(lr) }}</b>
              <small>{{ ratioInterval(lr) }}</small>
            </template>
          </td>
        </tr>
      </template>
    </tbody>
  </table>
</template>

<style scoped>
.ratios {
  width: 100%;
  border-collapse: collapse;
  table-layout: fixed;
}
tbody tr {
  border-bottom: 1px solid var(--line);
}
th,
td {
  padding: 2px 6px;
  text-align: left;
  font-weight: 400;
  vertical-align: middle;
}
thead th {
  padding: 4px 6px;
  font-size: 0.8125rem;
  font-weight: 600;
  vertical-align: bottom;
  border-bottom: 1px solid var(--line);
}
th.name {
  width: 29%;
  padding-left: 0;
}
th.axis,
td.rung {
  padding-right: 0;
  padding-left: 0;
}
.numeric {
  width: 96px;
  text-align: right;
}
.title {
  display: flex;
  align-items: center;
  gap: 2px;
}
.title a {
  display: -webkit-box;
  min-width: 0;
  overflow: hidden;
  overflow-wrap: anywhere;
  -webkit-box-orient: vertical;
  -webkit-line-clamp: 3;
  color: inherit;
  font-weight: 650;
  text-decoration: none;
}
.title a:hover {
  text-decoration: underline;
}
.group {
  padding: 18px 0 4px;
  font-family: var(--font-heading);
  font-size: 1.05rem;
  font-weight: 600;
}
.group small {
  display: inline;
  font-family: var(--font-text);
}
small {
  display: block;
  color: var(--muted);
  font-weight: 400;
  font-size: 0.75rem;
}
/* The levels belong to the test above them. */
tbody tr.level {
  border-bottom: 1px dotted var(--line);
}
.level th.name {
  padding-left: 34px;
}
.level td.rung svg {
  margin: -8px 0;
}
.raises {
  color: var(--raises);
}
.lowers {
  color: var(--lowers);
}
/* On a phone the name stands on its own line, the bar below it, both ratios at its right. */
@media screen and (max-width: 600px) {
  .ratios,
  thead,
  tbody {
    display: block;
  }
  tr {
    display: grid;
    grid-template-columns: minmax(0, 1fr) 66px 66px;
    align-items: center;
    padding: 2px 0;
  }
  thead th.name {
    display: none;
  }
  tbody th.name,
  th.group {
    grid-column: 1 / -1;
    width: auto;
  }
  thead th {
    align-self: stretch;
    align-content: end;
  }
  .numeric {
    width: auto;
    padding-right: 0;
  }
  .title a {
    padding: 10px 0;
  }
}
@media print {
  .numeric {
    width: 78px;
  }
  .group {
    break-after: avoid;
  }
}
</style>
