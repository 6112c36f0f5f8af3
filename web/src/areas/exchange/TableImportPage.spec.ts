import { flushPromises } from '@vue/test-utils'
import { beforeEach, describe, expect, it } from 'vitest'

import { enter, eventually, importView, mounted, problem, serve } from '@/shared/mount.setup'
import TableImportPage from './TableImportPage.vue'

const column = (letter: string, header: string, field: string | null, remembered = false) => ({
  letter,
  header,
  examples: ['1', '2'],
  field,
  remembered,
})
const names = ['test', 'reference', 'tp', 'fn', 'note', 'sensitivity', 'with_condition', 'design']
const columns = {
  sheets: ['About', 'Extraction'],
  sheet: 1,
  header_row: 2,
  rows: 3,
  columns: [
    column('A', 'Test', 'test'),
    column('B', 'Where', 'reference', true),
    column('C', 'TP', 'tp'),
    column('D', 'Missed', null),
    column('E', 'Remark', null),
  ],
  fields: names.map((name) => ({ name, about: '' })),
  remarks: [],
}
const imported = {
  studies: 2,
  known_studies: 0,
  alike: [4],
  results: 2,
  known_results: 1,
  tests: [{ name: 'Thumb lift', results: 2, known_results: 1 }],
  rows: [
    {
      row: 3,
      test: 'Thumb lift',
      reference: 'Made-up',
      counts: { tp: 8, fp: null, fn: 2, tn: null },
      sensitivity: 0.8,
      specificity: null,
      known: false,
    },
  ],
  sample: false,
  drafts: [],
  new_standards: [{ words: 'Surgery seen', results: 2, alike: ['Surgery'] }],
}
async function page(steps: unknown[], table: unknown = columns) {
  enter(['read', 'read_drafts', 'write_studies'])
  const next = () => (steps.length > 1 ? steps.shift() : steps[0])
  const asked = serve({
    'GET /regions': [],
    'GET /conditions': [],
    'POST /table-imports/columns': () => table,
    'POST /table-imports': next,
    'GET /imports/i': next,
    'DELETE /imports/i': () => importView('stopped'),
  })
  const { wrapper } = await mounted(TableImportPage)
  const input = wrapper.get<HTMLInputElement>('[data-test=table-file]')
  const file = new File(['Test;Where\n'], 'mine.csv')
  Object.defineProperty(input.element, 'files', { value: [file], configurable: true })
  await input.trigger('change')
  const get = (name: string) => wrapper.find(`[data-test=${name}]`)
  const sent = () => asked.filter((one) => one.method !== 'GET').map((one) => `${one.method} ${one.path}`)
  return { wrapper, get, sent, asked }
}

describe('a table on its way in', () => {
  beforeEach(() => (document.body.innerHTML = ''))

  it('asks for the columns that are needed, then shows what it would bring, then brings it', async () => {
    const steps = [importView('done', { imported }), importView('done', { preview: false, imported })]
    const { wrapper, get, sent } = await page(steps)
    await eventually(() => expect(get('table-needed').text()).toContain('the other cell of a group'))
    expect(get('left-out').text()).toBe('Not imported: Missed, Remark')
    expect(get('check-table').attributes('disabled')).toBeDefined()
    await get('column-D').setValue('fn')
    expect(get('table-needed').exists()).toBe(false)
    // A field stands in one column only.
    await get('column-E').setValue('reference')
    expect((get('column-B').element as HTMLSelectElement).value).toBe('')
    await get('column-B').setValue('reference')
    await get('check-table').trigger('click')
    await eventually(() =>
      expect(get('table-summary').text()).toContain('2 new results of 2 new studies, at 1 test'),
    )
    expect(sent().at(-1)).toBe(
      'POST /table-imports?sheet=1&header=2&columns=A%3Atest%2CB%3Areference%2CC%3Atp%2CD%3Afn&preview=true&name=mine.csv',
    )
    expect(get('table-summary').text()).toContain('1 result is already in the catalogue')
    expect(get('table-remarks').text()).toContain('Check row 4')
    expect(get('table-rows').text()).toContain('80')
    expect(get('table-rows').text()).toContain('not reported')
    await get('bring-table').trigger('click')
    await eventually(() => expect(get('table-done').text()).toBe('Imported: 2 results.'))
    expect(sent().at(-1)).toContain('preview=false')
    expect(wrapper.find('[data-test=table-columns]').exists()).toBe(false)
  })

  it('names every fault with its cell, and offers nothing to bring in', async () => {
    const fault = {
      field: 'C4 (tp)',
      code: 'invalid',
      value: 'x',
      message: 'No number.',
      remedy: 'Write one.',
    }
    const complete = { ...columns, columns: [...columns.columns.slice(0, 3), column('D', 'FN', 'fn')] }
    const { get } = await page([importView('refused', { faults: [fault], fault_count: 700 })], complete)
    await eventually(() => expect(get('table-faults').text()).toContain('C4 (tp)'))
    expect(get('table-refused').text()).toContain('700')
    expect(get('bring-table').exists()).toBe(false)
    expect(get('check-table').exists()).toBe(true)
  })

  it('tells how far it is, and stops', async () => {
    const complete = { ...columns, columns: [...columns.columns.slice(0, 3), column('D', 'FN', 'fn')] }
    const { get, sent } = await page(
      [importView('busy', { preview: false, phase: 'writing', done: 1500, of: 5000 })],
      complete,
    )
    await eventually(() => expect(get('import-progress').text()).toMatch(/Importing: 1.500 of 5.000/))
    await get('stop-import').trigger('click')
    await flushPromises()
    expect(get('table-stopped').text()).toBe('Stopped. Nothing was changed.')
    expect(sent().at(-1)).toBe('DELETE /imports/i')
  })

  it('asks again after an outage: the import went on meanwhile', async () => {
    const complete = { ...columns, columns: [...columns.columns.slice(0, 3), column('D', 'FN', 'fn')] }
    const steps = [importView('busy'), problem(503, 'database_unavailable'), importView('done', { imported })]
    const { get, wrapper } = await page(steps, complete)
    await eventually(() => expect(get('table-summary').text()).toContain('2 new results'))
    expect(wrapper.find('.failure').exists()).toBe(false)
  })

  it('says in words what is wrong with a file that is no table', async () => {
    const fault = {
      field: 'file',
      code: 'invalid' as const,
      value: '',
      message: 'Locked.',
      remedy: 'Unlock it.',
    }
    const { get } = await page([], problem(422, 'fields_invalid', [fault]))
    await eventually(() => expect(get('table-faults').text()).toContain('Locked.'))
    expect(get('table-columns').exists()).toBe(false)
  })

  it('looks at another sheet or another row of names, and says beforehand that a file is too large', async () => {
    const { wrapper, get, sent } = await page([importView('done', { imported })])
    await eventually(() => expect(get('table-sheet').exists()).toBe(true))
    await get('table-sheet').setValue(0)
    await eventually(() => expect(sent().at(-1)).toBe('POST /table-imports/columns?sheet=0'))
    await eventually(() => expect(get('table-header').exists()).toBe(true))
    await get('table-header').setValue('4')
    await eventually(() => expect(sent().at(-1)).toBe('POST /table-imports/columns?sheet=1&header=4'))
    const before = sent().length
    const input = wrapper.get<HTMLInputElement>('[data-test=table-file]')
    const large = new File(['x'], 'large.csv')
    Object.defineProperty(large, 'size', { value: 36 * 1024 * 1024 })
    Object.defineProperty(input.element, 'files', { value: [large], configurable: true })
    await input.trigger('change')
    await flushPromises()
    expect(wrapper.text()).toContain('This file has 36 MB; the limit is 20 MB.')
    expect(sent().length).toBe(before)
  })
})
