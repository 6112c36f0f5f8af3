<script setup lang="ts">
import { computed } from 'vue'

import type { Facet, PoolAnswer } from '@/shared/api/types'
import { text } from '@/shared/text'
import { facetWords } from './facetWords'
import { nearBy, turned } from './nearBy'

/** Which values of one facet are pooled; a filter that another choice leaves as it was is not drawn anew. */
const props = defineProps<{
  facet: Facet
  values: PoolAnswer['facets'][number]['values']
  chosen: string[]
}>()
const emit = defineEmits<{ choose: [values: string[]]; near: [values: string[] | null] }>()

const items = computed(() => {
  const known = props.values.map(({ value }) => value)
  const lost = props.chosen.filter((value) => !known.includes(value))
  return [...props.values, ...lost.map((value) => ({ value, results: 0 }))].map(({ value, results }) => ({
    value,
    title: `${facetWords(props.facet, value)} (${results})`,
    props: nearBy(
      (values) => emit('near', values),
      () => turned(props.chosen, value),
    ),
  }))
})
</script>

<template>
  <v-select
    :model-value="chosen"
    :items="items"
    :label="text.pool.facets[facet]"
    multiple
    clearable
    @update:model-value="emit('choose', $event)"
  />
</template>
