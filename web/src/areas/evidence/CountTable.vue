<script setup lang="ts">
import type { FieldError, RawCounts } from '@/shared/api/types'
import { text } from '@/shared/text'
import { pastedCounts } from './pastedCounts'

/** The four cells in the shape in which reports print them. */
const cells = defineModel<RawCounts>({ required: true })
const props = defineProps<{ errors: FieldError[] }>()

type Cell = keyof RawCounts
const layout: { label: string; cells: [Cell, Cell] }[] = [
  { label: text.study.testPositive, cells: ['tp', 'fp'] },
  { label: text.study.testNegative, cells: ['fn', 'tn'] },
]

function change(cell: Cell, typed: string) {
  const value = typed.trim() === '' ? null : Number(typed)
  cells.value = { ...cells.value, [cell]: value }
}
/** All four from one paste; what is none of that is left to the field. */
function paste(event: ClipboardEvent) {
  const pasted = pastedCounts(event.clipboardData?.getData('text') ?? '')
  if (!pasted) return
  event.preventDefault()
  cells.value = pasted
}
const fault = (cell: Cell) => props.errors.find((error) => error.field === cell)
</script>

<template>
  <div>
    <table class="counts" @paste="paste">
      <thead>
        <tr>
          <td></td>
          <th scope="col">{{ text.study.with }}</th>
          <th scope="col">{{ text.study.without }}</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="row in layout" :key="row.label">
          <th scope="row">{{ row.label }}</th>
          <td v-for="cell in row.cells" :key="cell">
            <label>
              <span class="code">{{ cell.toUpperCase() }}</span>
              <span class="visually-hidden">{{ text.study.cells[cell] }}</span>
              <input
                type="number"
                min="0"
                step="1"
                inputmode="numeric"
                :value="cells[cell] ?? ''"
                :aria-invalid="!!fault(cell)"
                :aria-describedby="fault(cell) ? 'count-faults' : undefined"
                :data-test="`cell-${cell}`"
                @input="change(cell, ($event.target as HTMLInputElement).value)"
              />
            </label>
          </td>
        </tr>
      </tbody>
    </table>
    <ul v-if="errors.length" id="count-faults" class="faults small" role="alert">
      <li v-for="error in errors" :key="error.field + error.message">
        <b>{{ error.field.toUpperCase() }}</b>: {{ error.message }} {{ error.remedy }}
      </li>
    </ul>
    <p v-else class="small muted">{{ text.study.oneArm }} {{ text.rebuild.pasted }}</p>
  </div>
</template>

<style scoped>
.counts {
  border-collapse: collapse;
  margin-bottom: 6px;
}
th {
  padding: 4px 10px 4px 0;
  font-weight: 500;
  font-size: 0.8125rem;
  text-align: left;
}
td {
  padding: 3px 8px 3px 0;
}
label {
  display: flex;
  align-items: center;
  gap: 6px;
}
.code {
  width: 1.8em;
  color: var(--muted);
  font-size: 0.8rem;
}
input {
  width: 6.2em;
  padding: 6px 8px;
  border: 1px solid var(--muted);
  border-radius: 4px;
  color: inherit;
  background: rgb(var(--v-theme-background));
  text-align: right;
}
@media (max-width: 480px) {
  input {
    width: 4.6em;
  }
}
input[aria-invalid='true'] {
  border: 2px solid rgb(var(--v-theme-error));
}
.faults {
  list-style: none;
  padding: 0;
  color: rgb(var(--v-theme-error));
}
</style>
