<script setup lang="ts">
import { lr } from '@/areas/evidence/resultWords'
import type { BatteryAnswer } from '@/shared/api/types'
import { percent, percentInterval, percentPoint } from '@/shared/format'
import WideBlock from '@/shared/layout/WideBlock.vue'
import { text } from '@/shared/text'

/** Each number of positive tests in figures. */
defineProps<{ counts: BatteryAnswer['dependent']['counts'] }>()
const words = text.combine.stairs
</script>

<template>
  <WideBlock :label="words.title">
    <table class="plain-table small" data-test="count-table">
      <thead>
        <tr>
          <th scope="col">{{ words.counts }}</th>
          <th scope="col">{{ words.lr }}</th>
          <th scope="col">{{ words.after }}</th>
          <th scope="col">{{ words.with }}</th>
          <th scope="col">{{ words.without }}</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="count in counts" :key="count.positive">
          <th scope="row">{{ count.positive }}</th>
          <td>{{ lr(count.lr, words.never) }}</td>
          <td>{{ count.after ? `${percentPoint(count.after)} (${percentInterval(count.after)})` : '–' }}</td>
          <td>{{ percent(count.diseased) }}</td>
          <td>{{ percent(count.non_diseased) }}</td>
        </tr>
      </tbody>
    </table>
  </WideBlock>
</template>
