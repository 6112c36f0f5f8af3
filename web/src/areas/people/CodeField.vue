<script setup lang="ts">
import { text } from '@/shared/text'

/** The code of a second step; `quiet` where something else has the focus first. */
defineProps<{ quiet?: boolean }>()
const code = defineModel<string>({ required: true })
</script>

<template>
  <v-text-field
    v-model="code"
    :label="text.secondStep.code"
    :hint="text.secondStep.codeHint"
    persistent-hint
    autocomplete="one-time-code"
    autocapitalize="none"
    data-test="code"
    :autofocus="!quiet"
  />
</template>
