import { readFileSync } from 'node:fs'
import { describe, expect, it } from 'vitest'

import type { TableView } from '@/shared/api/types'
import { columnChoices, columnLabel } from './columnLabel'

// The columns as the program that writes and reads them has them.
const source = readFileSync('../crates/formats/src/results_table/fields.rs', 'utf8')
const listed = (name: string) => {
  const list = source.slice(source.indexOf(`const ${name}:`))
  const entries = list.slice(0, list.indexOf('];')).matchAll(/^ {4}\("([a-z_]+)"/gm)
  return [...entries].map(([, field]) => field ?? '')
}
const fields = [...listed('RESULT_COLUMNS'), ...listed('ONLY_READ')]

describe('what a column can hold', () => {
  it('has its own words for every column that is read', () => {
    expect(fields.length).toBeGreaterThan(40)
    const labels = fields.map(columnLabel)
    expect(fields.filter((field, at) => labels[at] === field)).toEqual([])
    expect(new Set(labels).size).toBe(labels.length)
  })

  it('is offered once, in its group', () => {
    const view = { fields: fields.map((name) => ({ name, about: '' })) } as unknown as TableView
    const groups = columnChoices(view)
    expect(groups.flatMap((group) => group.fields.map((field) => field.name)).sort()).toEqual(
      [...fields].sort(),
    )
    const of = (label: string) =>
      groups.find((group) => group.label === label)?.fields.map((it) => it.name) ?? []
    expect(of('The result')).toContain('tp')
    expect(of('The study')).toContain('study_note')
    expect(of('Printed figures')).toHaveLength(4)
  })
})
