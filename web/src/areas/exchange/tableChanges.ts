import type { FieldError, PickedRows } from '@/shared/api/types'

/** A value that is read in the place of what stands in the file: in one cell, or in all cells of a field that say the same. */
export type TableChange = { cell: string; becomes: string } | { field: string; was: string; becomes: string }

/** Faults which one correction mends: of one cell, or of a value that is wrong wherever it stands in its field. */
export interface FaultGroup {
  key: string
  faults: FieldError[]
  /** What stands there, as far as it is told. */
  value: string
  /** It is not known, such as the name of a test or a setting, so that it is wrong in every row. */
  everywhere: boolean
  field: string
  /** The cell, where the correction is of one only. */
  cell: string
}

/** A value is told in full up to here; a longer one cannot be looked for. */
const TOLD = 80

const place = ({ field }: FieldError) => /^([A-Z]+\d+) \((\w+)\)$/.exec(field)

/** The faults of a table in groups that one correction mends; those that no cell stands for have neither cell nor field. */
export function faultGroups(faults: FieldError[]): FaultGroup[] {
  const groups = new Map<string, FaultGroup>()
  for (const fault of faults) {
    const [, cell = '', field = ''] = place(fault) ?? []
    // Of several tests read together the fault names one, and an identifier may be written in several ways: the cell holds something else.
    const whole = [...fault.value].length <= TOLD && field !== 'together'
    const everywhere = !!cell && !!fault.value && whole && fault.code === 'unknown' && field !== 'doi'
    const key = everywhere ? `${field}\n${fault.value}` : `${fault.field}\n${fault.message}`
    const group = groups.get(key)
    if (group) group.faults.push(fault)
    else groups.set(key, { key, faults: [fault], value: whole ? fault.value : '', everywhere, field, cell })
  }
  return [...groups.values()]
}

/** What a correction of a group changes; what is wrong everywhere may also stand beyond the faults that are listed. */
export function changeOf({ value, everywhere, field, cell }: FaultGroup, becomes: string): TableChange {
  return everywhere ? { field, was: value, becomes } : { cell, becomes }
}

const what = (change: TableChange) =>
  'cell' in change ? `cell ${change.cell}` : `value ${change.field} ${change.was}`

/** Earlier changes with new ones, the later of two for the same place. */
export function withChanges(before: TableChange[], more: TableChange[]): TableChange[] {
  const replaced = new Set(more.map(what))
  return [...before.filter((change) => !replaced.has(what(change))), ...more]
}

const safe = (text: string) => (/^[=+\-@\t\r]/.test(text) ? `'${text}` : text)
const cellOf = (text: string) => `"${text.replaceAll('"', '""')}"`

/** Numbers of the rows that have a fault, in their order. */
export function faultyRows(faults: FieldError[]): number[] {
  const numbers = faults.map(({ field }) => Number(/^(?:[A-Z]+|row )(\d+)/.exec(field)?.[1] ?? 0))
  return [...new Set(numbers.filter((number) => number > 0))].sort((a, b) => a - b)
}

/** The faulty rows themselves, each with what is wrong with it, for those who correct them in a spreadsheet. */
export function faultyRowsCsv({ header, rows }: PickedRows, faults: FieldError[], heads: string[]): string {
  const width = Math.max(header.length, ...rows.map(({ cells }) => cells.length))
  const padded = (cells: string[]) => Array.from({ length: width }, (_, at) => safe(cells[at] ?? ''))
  const wrong = (row: number) =>
    faults
      .filter((fault) => faultyRows([fault])[0] === row)
      .map(({ field, message, remedy }) => `${field}: ${message} ${remedy}`)
      .join(' ')
  const lines = rows.map(({ row, cells }) => [...padded(cells), String(row), wrong(row)])
  return [[...padded(header), ...heads], ...lines].map((line) => line.map(cellOf).join(',')).join('\r\n')
}

/** The faults as a table for those who correct the file itself. A cell that begins like a formula stays text. */
export function faultsCsv(faults: FieldError[], heads: string[]): string {
  const lines = faults.map(({ field, value, message, remedy }) => [field, value, message, remedy].map(safe))
  return [heads, ...lines].map((line) => line.map(cellOf).join(',')).join('\r\n')
}
