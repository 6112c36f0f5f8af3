import { fieldLabel } from '@/areas/evidence/extractionWords'
import type { TableView } from '@/shared/api/types'
import { text } from '@/shared/text'

const OF_RESULT = [
  'tp',
  'fp',
  'fn',
  'tn',
  'variant',
  'criterion',
  'condition',
  'stage',
  'group',
  'reference_standard',
  'unit',
  'together',
  'page',
]

/** What a column can hold, as the forms name it. */
export function columnLabel(field: string): string {
  const own = text.tableImport.fields[field]
  if (own) return own
  if (field === 'population') return fieldLabel('study.population')
  return fieldLabel(OF_RESULT.includes(field) ? `result.${field}` : `study.setup.${field}`)
}

/** Everything that a column can hold, in groups for choosing. */
export function columnChoices(
  view: TableView,
): { label: string; fields: { name: string; label: string }[] }[] {
  const printed = ['sensitivity', 'specificity', 'with_condition', 'without_condition']
  const result = [...OF_RESULT, 'test', 'region', 'preferred', 'note', 'sample_data']
  const group = (name: string) =>
    printed.includes(name) ? 'printed' : result.includes(name) ? 'result' : 'study'
  return ['result', 'printed', 'study'].map((wanted) => ({
    label: text.tableImport.groups[wanted] ?? wanted,
    fields: view.fields
      .filter(({ name }) => group(name) === wanted)
      .map(({ name }) => ({ name, label: columnLabel(name) })),
  }))
}
