import { fieldLabel } from '@/areas/evidence/extractionWords'
import { RESULT_FIELDS } from '@/areas/evidence/resultFields'
import type { Region, TableView } from '@/shared/api/types'
import { text } from '@/shared/text'

const OF_RESULT = ['tp', 'fp', 'fn', 'tn', ...RESULT_FIELDS.map(({ name }) => name as string)]

/** What a column can hold, as the forms name it. */
export function columnLabel(field: string): string {
  const own = text.tableImport.fields[field]
  if (own) return own
  if (field === 'population') return fieldLabel('study.population')
  return fieldLabel(OF_RESULT.includes(field) ? `result.${field}` : `study.setup.${field}`)
}

/** What one of the few possible values of a field is called. */
export function choiceLabel(field: string, value: string): string {
  if (field === 'region') return text.regions[value as Region] ?? value
  return text.setup.choices[field as keyof typeof text.setup.choices]?.words[value] ?? value
}

/** Everything that a column can hold, in groups for choosing. */
export function columnChoices(
  view: TableView,
): { label: string; fields: { name: string; label: string }[] }[] {
  const printed = ['sensitivity', 'specificity', 'with_condition', 'without_condition']
  const result = [...OF_RESULT, 'test', 'region', 'sample_data']
  const group = (name: string) =>
    printed.includes(name) ? 'printed' : result.includes(name) ? 'result' : 'study'
  return ['result', 'printed', 'study'].map((wanted) => ({
    label: text.tableImport.groups[wanted] ?? wanted,
    fields: view.fields
      .filter(({ name }) => group(name) === wanted)
      .map(({ name }) => ({ name, label: columnLabel(name) })),
  }))
}
