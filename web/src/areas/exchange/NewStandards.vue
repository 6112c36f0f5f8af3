<script setup lang="ts">
import type { ImportedTable } from '@/shared/api/types'
import { text } from '@/shared/text'
import type { TableChange } from './tableChanges'

/** Reference standards of a table under words that the catalogue does not have: one of its own may be meant. */
defineProps<{ standards: ImportedTable['new_standards'] }>()
const emit = defineEmits<{ change: [changes: TableChange[]] }>()
const words = text.tableImport.standards
const use = (was: string, becomes: string) => emit('change', [{ field: 'reference_standard', was, becomes }])
</script>

<template>
  <section data-test="new-standards">
    <h3>{{ words.title }}</h3>
    <p class="small muted">{{ words.about }}</p>
    <ul>
      <li v-for="it in standards" :key="it.words">
        <span class="wrap-anywhere"
          >“{{ it.words }}” <span class="muted">{{ words.results(it.results) }}</span></span
        >
        <v-btn
          v-for="name in it.alike"
          :key="name"
          variant="text"
          size="small"
          data-test="use-standard"
          @click="use(it.words, name)"
          >{{ text.tableImport.mend.use(name) }}</v-btn
        >
      </li>
    </ul>
  </section>
</template>

<style scoped>
section {
  margin: 18px 0;
}
ul {
  padding: 0;
  list-style: none;
}
li {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 2px 10px;
  padding: 4px 0;
}
</style>
