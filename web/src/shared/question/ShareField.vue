<script setup lang="ts">
import { ref, watch } from 'vue'

import { typedPercent } from '@/shared/format'
import { typedNumber } from '@/shared/typedNumber'

/** A probability, typed in per cent; nothing while nothing is typed or what is typed is none. */
const model = defineModel<number | null | undefined>({ required: true })
defineProps<{ label: string; errors?: string[] }>()

const shown = (share: number | null | undefined) => (share == null ? '' : typedPercent(share))
const typed = ref(shown(model.value))
const said = () => {
  const number = typedNumber(typed.value ?? '')
  return number === null || Number.isNaN(number) ? null : Number((number / 100).toFixed(6))
}
watch(model, (share) => {
  if (said() !== (share ?? null)) typed.value = shown(share)
})
</script>

<template>
  <v-text-field
    v-model="typed"
    inputmode="decimal"
    suffix="%"
    density="compact"
    :label="label"
    :error-messages="errors"
    hide-details="auto"
    @update:model-value="model = said()"
  />
</template>
