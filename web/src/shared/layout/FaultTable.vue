<script setup lang="ts">
import type { FieldError } from '@/shared/api/types'
import { text } from '@/shared/text'

/** Everything that is wrong with a file, each with its place. */
defineProps<{ faults: FieldError[] }>()
</script>

<template>
  <table class="plain-table">
    <thead>
      <tr>
        <th scope="col">{{ text.exchange.where }}</th>
        <th scope="col">{{ text.exchange.what }}</th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="fault in faults" :key="fault.field + fault.message">
        <td class="wrap-anywhere">
          <code>{{ fault.field }}</code>
        </td>
        <td class="wrap-anywhere">
          {{ fault.message }} <span v-if="fault.value" class="muted">“{{ fault.value }}”</span>
          {{ fault.remedy }}
        </td>
      </tr>
    </tbody>
  </table>
</template>
