<script setup lang="ts">
import { computed, ref } from 'vue'

import LadderAxis from '@/figures/LadderAxis.vue'
import { ladderScale } from '@/figures/logScale'
import type { Answer, RatioEstimate, TestRow } from '@/shared/api/types'
import { percent } from '@/shared/format'
import { text } from '@/shared/text'
import { useWidth } from '@/shared/useWidth'
import LadderRow from './LadderRow.vue'

/** The likelihood ladder as a table: every test a row on one axis, with what its results mean beside it. On a phone the name stands above
 *  its row, which makes a grid of it for the browser; the roles keep it a table for readers of the page. */
const props = defineProps<{
  asked: TestRow[]
  others: TestRow[]
  answers: Map<string, Answer>
  preTest: number
  picked: string | null
}>()
const emit = defineEmits<{ pick: [id: string] }>()

const cell = ref<HTMLElement | null>(null)
const width = useWidth(cell, 560)
const axis = computed(() => {
  const intervals = [...props.asked, ...props.others].flatMap((row) => [
    row.summary?.lr_positive,
    row.summary?.lr_negative,
  ])
  return ladderScale(
    intervals.filter((lr): lr is RatioEstimate => !!lr),
    width.value,
  )
})

function step(event: KeyboardEvent, by: 1 | -1) {
  const links = [...(event.currentTarget as HTMLElement).querySelectorAll<HTMLElement>('a.test-link')]
  const at = links.indexOf(document.activeElement as HTMLElement)
  const next = links[at + by]
  if (at < 0 || !next) return
  event.preventDefault()
  next.focus()
}
</script>

<template>
  <table class="ladder" role="table" @keydown.down="step($event, 1)" @keydown.up="step($event, -1)">
    <caption class="visually-hidden">
      {{
        text.catalogue.axis
      }}
    </caption>
    <thead role="rowgroup">
      <tr role="row">
        <th scope="col" role="columnheader" class="name">{{ text.catalogue.test }}</th>
        <th scope="col" role="columnheader" class="axis">
          <span class="visually-hidden">{{ text.catalogue.axis }}</span>
          <div ref="cell"><LadderAxis :axis="axis" :width="width" /></div>
        </th>
        <th scope="col" role="columnheader" class="numeric raises">
          {{ text.catalogue.positive }}<small>{{ text.catalogue.after(percent(preTest)) }}</small>
        </th>
        <th scope="col" role="columnheader" class="numeric lowers">
          {{ text.catalogue.negative }}<small>{{ text.catalogue.after(percent(preTest)) }}</small>
        </th>
      </tr>
    </thead>
    <tbody role="rowgroup">
      <LadderRow
        v-for="row in asked"
        :key="row.id"
        :row="row"
        :axis="axis"
        :width="width"
        :answer="answers.get(row.id)"
        :picked="row.id === picked"
        @pick="emit('pick', row.id)"
      />
    </tbody>
    <tbody v-if="others.length" role="rowgroup">
      <tr role="row">
        <th colspan="4" scope="rowgroup" role="rowheader" class="others">
          {{ text.catalogue.others }} <small>{{ text.catalogue.othersNote }}</small>
        </th>
      </tr>
      <LadderRow v-for="row in others" :key="row.id" :row="row" :axis="axis" :width="width" :picked="false" />
    </tbody>
  </table>
</template>

<style scoped>
.ladder {
  width: 100%;
  border-collapse: collapse;
  table-layout: fixed;
}
th {
  text-align: left;
  vertical-align: bottom;
  padding: 4px 6px;
  font-size: 0.8125rem;
  font-weight: 600;
  border-bottom: 1px solid var(--line);
}
th.name {
  width: 30%;
}
th.axis {
  padding: 4px 0;
}
th.numeric {
  width: 92px;
  text-align: right;
}
small {
  display: block;
  color: var(--muted);
  font-weight: 400;
  font-size: 0.75rem;
}
.raises {
  color: var(--raises);
}
.lowers {
  color: var(--lowers);
}
.others {
  padding-top: 20px;
}
@media screen and (max-width: 600px) {
  .ladder,
  .ladder thead,
  .ladder tbody {
    display: block;
  }
  .ladder thead tr {
    display: grid;
    grid-template-columns: minmax(0, 1fr) 68px 68px;
    align-items: end;
  }
  th.name {
    display: none;
  }
  .ladder thead th {
    align-self: stretch;
    align-content: end;
  }
  .ladder th.numeric {
    width: auto;
    padding: 4px 4px 4px 0;
    font-size: 0.75rem;
  }
  .others {
    display: block;
  }
}
@media (max-width: 900px) {
  th.name {
    width: 28%;
  }
  th.numeric {
    width: 74px;
  }
}
@media print {
  th.name {
    width: 38%;
  }
}
</style>
