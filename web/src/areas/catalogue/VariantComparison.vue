<script setup lang="ts">
import { computed, ref } from 'vue'

import type { Variant } from '@/shared/api/types'
import { text } from '@/shared/text'
import { variantDifferences } from './sheetDifferences'

/** Two ways of doing a test side by side; only what differs is shown. */
const props = defineProps<{ variants: Variant[] }>()

const open = ref(false)
const one = ref(0)
const other = ref(1)
const names = computed(() => props.variants.map((variant, value) => ({ value, title: variant.name })))
const differing = computed(() => {
  const [left, right] = [props.variants[one.value], props.variants[other.value]]
  return left && right ? variantDifferences(left, right) : []
})
</script>

<template>
  <div class="comparison no-print">
    <v-btn size="small" variant="text" :aria-expanded="open" data-test="compare" @click="open = !open">
      {{ text.sheet.compare }}
    </v-btn>
    <table v-if="open" data-test="comparison">
      <caption class="visually-hidden">
        {{
          text.sheet.compareWith(names[one]?.title ?? '', names[other]?.title ?? '')
        }}
      </caption>
      <thead>
        <tr>
          <td></td>
          <th scope="col">
            <v-select
              v-model="one"
              :items="names"
              density="compact"
              hide-details
              :aria-label="text.sheet.variants"
            />
          </th>
          <th scope="col">
            <v-select
              v-model="other"
              :items="names"
              density="compact"
              hide-details
              :aria-label="text.sheet.variants"
            />
          </th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="entry in differing" :key="entry.path">
          <th scope="row">{{ entry.label }}</th>
          <td class="pre-line" dir="auto">{{ entry.one || text.review.nothing }}</td>
          <td class="pre-line" dir="auto">{{ entry.other || text.review.nothing }}</td>
        </tr>
        <tr v-if="!differing.length">
          <td colspan="3" class="muted">{{ text.sheet.compareSame }}</td>
        </tr>
      </tbody>
    </table>
  </div>
</template>

<style scoped>
table {
  width: 100%;
  border-collapse: collapse;
  table-layout: fixed;
  font-size: 0.875rem;
}
th,
td {
  padding: 6px 8px;
  text-align: left;
  vertical-align: top;
  border-bottom: 1px solid var(--line);
}
tbody th,
thead td {
  width: 22%;
}
tbody td {
  background: rgba(var(--v-theme-warning), 0.08);
}
</style>
