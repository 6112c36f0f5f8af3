<script setup lang="ts">
import { computed } from 'vue'

import type { TableView } from '@/shared/api/types'
import { text } from '@/shared/text'
import { columnChoices } from './columnLabel'

/** The columns of a table: what each holds is told by its name, or chosen. */
const props = defineProps<{ view: TableView; mapping: Record<string, string>; disabled: boolean }>()
const emit = defineEmits<{ choose: [letter: string, field: string] }>()

const words = text.tableImport
const choices = computed(() => columnChoices(props.view))
const leftOut = computed(() =>
  props.view.columns.filter(({ letter }) => !props.mapping[letter]).map((it) => it.header || it.letter),
)
const chosen = (event: Event) => (event.target as HTMLSelectElement).value
</script>

<template>
  <table class="plain-table stacked" data-test="table-columns">
    <thead>
      <tr>
        <th scope="col">{{ words.column }}</th>
        <th scope="col">{{ words.examples }}</th>
        <th scope="col">{{ words.holds }}</th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="column in view.columns" :key="column.letter" :class="{ muted: !mapping[column.letter] }">
        <th scope="row" class="wrap-anywhere">
          <span class="letter muted">{{ column.letter }}</span> {{ column.header }}
        </th>
        <td class="examples wrap-anywhere" :data-label="words.examples" dir="auto">
          {{ column.examples.join(' · ') }}
        </td>
        <td>
          <!-- The browser's own choosers: forty of the framework's would be slow to open. -->
          <select
            :value="mapping[column.letter]"
            :disabled="disabled"
            :aria-label="`${words.holds}: ${words.inColumn(column.letter, column.header)}`"
            :data-test="`column-${column.letter}`"
            @change="emit('choose', column.letter, chosen($event))"
          >
            <option value="">{{ words.leftOut }}</option>
            <optgroup v-for="group in choices" :key="group.label" :label="group.label">
              <option v-for="field in group.fields" :key="field.name" :value="field.name">
                {{ field.label }}
              </option>
            </optgroup>
          </select>
          <span
            v-if="column.remembered && mapping[column.letter] === (column.field ?? '')"
            class="small muted"
          >
            {{ words.remembered }}
          </span>
        </td>
      </tr>
    </tbody>
  </table>
  <p v-if="leftOut.length" class="small muted wrap-anywhere" data-test="left-out">
    {{ words.leftOutList(leftOut.join(', ')) }}
  </p>
</template>

<style scoped>
th[scope='row'] {
  font-weight: 600;
}
.letter {
  display: inline-block;
  min-width: 2em;
  font-weight: 400;
}
.examples {
  max-width: min(360px, 100%);
}
select {
  max-width: min(260px, 100%);
  padding: 3px 6px;
  color: inherit;
  background: rgb(var(--v-theme-surface));
  border: 1px solid var(--line);
  border-radius: 4px;
}
@media (max-width: 600px) {
  select {
    min-height: 44px;
  }
}
</style>
