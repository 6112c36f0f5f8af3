import type { Entry, Field, Value } from './fieldKinds'

/** An entry in which nothing is written. */
export function blank(fields: Field[]): Entry {
  return Object.fromEntries(
    fields.map((field) => {
      switch (field.kind) {
        case 'line':
        case 'text':
        case 'suggest':
          return [field.key, '']
        case 'texts':
        case 'choices':
        case 'list':
          return [field.key, []]
        case 'flag':
          return [field.key, false]
        case 'group':
        case 'table':
          return [field.key, blank(field.fields)]
        default:
          return [field.key, null]
      }
    }),
  )
}

/** Whether anything is written in a value. */
export function written(value: Value | undefined): boolean {
  if (value === null || value === undefined || value === '' || value === false) return false
  if (Array.isArray(value)) return value.some((item) => written(item))
  return typeof value === 'object' ? Object.values(value).some(written) : true
}

/** A value in words, one line for each entry of a list. */
export function shown(field: Field, value: Value | undefined): string {
  if (!written(value)) return ''
  if (field.kind === 'choice') return field.words[String(value)] ?? String(value)
  if (field.kind === 'choices') return (value as string[]).map((one) => field.words[one] ?? one).join(', ')
  if (field.kind === 'number') return `${Number(value)}${field.unit ? ` ${field.unit}` : ''}`
  if (field.kind === 'flag') return field.label
  if (field.kind === 'texts') return (value as string[]).filter(Boolean).join('\n')
  if (field.kind === 'list')
    return (value as Entry[])
      .map((entry) => shownEntry(field.fields, entry))
      .filter(Boolean)
      .join('\n')
  if (field.kind === 'group' || field.kind === 'table') return shownEntry(field.fields, value as Entry)
  return String(value).trim()
}

function shownEntry(fields: Field[], entry: Entry): string {
  const parts = fields.map((field) => {
    const words = shown(field, entry[field.key])
    if (!words || field.kind === 'flag') return words
    if (field.kind === 'list') return `\n${field.label}:\n${words}`
    return field.kind === 'number' ? `${field.label} ${words}` : words
  })
  return parts.filter(Boolean).join(' · ').replaceAll(' · \n', '\n')
}
