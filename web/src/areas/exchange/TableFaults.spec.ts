import type { VueWrapper } from '@vue/test-utils'
import { beforeEach, describe, expect, it } from 'vitest'

import type { FieldError } from '@/shared/api/types'
import { enter, eventually, mounted, serve } from '@/shared/mount.setup'
import DraftDialog from './DraftDialog.vue'
import { changeOf, faultGroups, faultsCsv, faultyRows, faultyRowsCsv, withChanges } from './tableChanges'
import type { DraftSheet } from './tableImport'
import TableFaults from './TableFaults.vue'

const fault = (field: string, value: string, code = 'invalid', message = 'Wrong.') =>
  ({ field, value, message, remedy: 'Mend it.', code }) as FieldError

describe('corrections of a table', () => {
  beforeEach(() => (document.body.innerHTML = ''))

  it('mend what is not known wherever it stands in a field, and else one cell', () => {
    const groups = faultGroups([
      fault('A3 (test)', 'Lfit', 'unknown'),
      fault('D4 (tp)', 'x'),
      fault('E4 (setting)', 'GP', 'unknown'),
      fault('E5 (setting)', 'GP', 'unknown'),
      fault('J5 (together)', 'Lfit', 'unknown'),
      fault('J6 (together)', 'Lfit', 'unknown'),
      fault('A7 (test)', `${'x'.repeat(80)}…`, 'unknown'),
      fault('row 8 (reference)', ''),
    ])
    expect(groups.map(({ faults }) => faults.length)).toEqual([1, 1, 2, 1, 1, 1, 1])
    expect(groups.slice(0, 6).map((group) => changeOf(group, 'y'))).toEqual([
      { field: 'test', was: 'Lfit', becomes: 'y' },
      { cell: 'D4', becomes: 'y' },
      { field: 'setting', was: 'GP', becomes: 'y' },
      { cell: 'J5', becomes: 'y' },
      { cell: 'J6', becomes: 'y' },
      { cell: 'A7', becomes: 'y' },
    ])
    expect(groups[6]!.cell, 'no cell stands for it').toBe('')
  })

  it('touch no row in which the same value is right', () => {
    // More than were examined, and a row that stands twice: 90 people and this test are right elsewhere.
    const groups = faultGroups([
      fault('H3 (people)', '90'),
      fault('H4 (people)', '90'),
      fault('A5 (test)', 'Lift', 'duplicate'),
      fault('I6 (doi)', '10.5555/none', 'unknown'),
    ])
    expect(groups.map((group) => changeOf(group, 'y'))).toEqual(
      ['H3', 'H4', 'A5', 'I6'].map((cell) => ({ cell, becomes: 'y' })),
    )
  })

  it('come after earlier ones, the later for the same place', () => {
    const first = [
      { cell: 'D4', becomes: '1' },
      { field: 'test', was: 'Lfit', becomes: 'Lift' },
    ]
    const more = [{ cell: 'D4', becomes: '2' }]
    expect(withChanges(first, more)).toEqual([first[1], more[0]])
  })

  it('are listed for a spreadsheet, where nothing is run as a formula', () => {
    const csv = faultsCsv(
      [fault('D4 (tp)', '=1+1', 'invalid', 'A "bad", value.')],
      ['Where', 'Value', 'What', 'Remedy'],
    )
    expect(csv).toBe('"Where","Value","What","Remedy"\r\n"D4 (tp)","\'=1+1","A ""bad"", value.","Mend it."')
  })

  it('come with their rows, whatever else stands there', () => {
    const faults = [
      fault('D4 (tp)', 'x'),
      fault('A4 (test)', 'Lfit', 'unknown'),
      fault('row 2 (reference)', ''),
      fault('file', ''),
    ]
    expect(faultyRows(faults)).toEqual([2, 4])
    const picked = { header: ['Test', 'TP'], rows: [{ row: 4, cells: ['=Lfit', 'x', 'y'] }] }
    expect(faultyRowsCsv(picked, faults.slice(0, 1), ['Row', 'Wrong'])).toBe(
      '"Test","TP","","Row","Wrong"\r\n"\'=Lfit","x","y","4","D4 (tp): Wrong. Mend it."',
    )
  })

  it('choose among few values, and write a sheet for a test that has none', async () => {
    enter(['read', 'write_studies', 'write_sheets'])
    serve({ 'GET /tests': [], 'GET /regions': [], 'GET /conditions': [] })
    const faults = [fault('E4 (setting)', 'GP', 'unknown'), fault('A3 (test)', 'Thumb lfit', 'unknown')]
    const choices = { setting: ['primary_care', 'sports'] }
    const { wrapper } = await mounted(TableFaults, { faults, busy: false, choices })
    const select = wrapper.findComponent('[data-test=mend-choice]') as VueWrapper
    expect((select.props() as { items?: unknown }).items).toEqual([
      { value: 'primary_care', title: 'primary care' },
      { value: 'sports', title: 'sports medicine' },
    ])
    select.vm.$emit('update:modelValue', 'primary_care')
    await wrapper.get('form').trigger('submit')
    const own = wrapper.findComponent(TableFaults)
    expect(own.emitted('change')).toEqual([[[{ field: 'setting', was: 'GP', becomes: 'primary_care' }]]])
    await wrapper.get('[data-test=draft-sheet]').trigger('click')
    const sheet = { name: 'Thumb lfit', region: 'hand_wrist', purpose: 'strength' } as DraftSheet
    wrapper.findComponent(DraftDialog).vm.$emit('write', sheet)
    expect(own.emitted('draft')).toEqual([[sheet]])
  })

  it('are typed or taken from what the catalogue has, and applied together', async () => {
    enter(['read', 'write_studies'])
    const asked = serve({ 'GET /tests': [{ name: 'Thumb lift' }] })
    const faults = [fault('A3 (test)', 'Thumb lfit', 'unknown'), fault('D4 (tp)', 'x'), fault('D5 (tp)', 'z')]
    const { wrapper } = await mounted(TableFaults, { faults, busy: false })
    await eventually(() => expect(wrapper.find('[data-test=mend-suggestion]').exists()).toBe(true))
    expect(asked.at(-1)!.path).toContain('search=Thumb%20lfit')
    expect(
      wrapper.get('[data-test=apply-changes]').attributes('disabled'),
      'nothing is corrected',
    ).toBeDefined()
    await wrapper.get('[data-test=mend-suggestion]').trigger('click')
    await wrapper.findAll<HTMLInputElement>('[data-test=mend] input')[1]!.setValue(' 12 ')
    await wrapper.get('form').trigger('submit')
    expect(wrapper.findComponent(TableFaults).emitted('change')).toEqual([
      [
        [
          { field: 'test', was: 'Thumb lfit', becomes: 'Thumb lift' },
          { cell: 'D4', becomes: '12' },
        ],
      ],
    ])
  })
})
