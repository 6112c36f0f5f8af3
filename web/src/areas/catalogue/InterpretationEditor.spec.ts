import { flushPromises } from '@vue/test-utils'
import { describe, expect, it } from 'vitest'

import { editor, mounted, serve, eventually } from '@/shared/mount.setup'
import type { Interpretation, Measure } from '@/shared/api/types'
import InterpretationEditor from './InterpretationEditor.vue'
import type { Field } from './fieldKinds'
import { sheetFields } from './sheetFields'

const field = sheetFields.find((it) => it.key === 'interpretation')
const fields: Field[] = field?.kind === 'table' ? field.fields : []
const measure = (name: string, choices: string[] = []): Measure => ({
  name,
  choices,
  unit: choices.length ? '' : 'deg',
  low: null,
  high: null,
  resolution: null,
})
const row = (reading: string, conditions: Interpretation['rows'][number]['conditions'] = []) => ({
  conditions,
  reading,
  grade: '',
  condition: '',
  next_step: '',
  urgent: false,
  within_hours: null,
})

async function table(interpretation: Interpretation, answers: Record<string, unknown> = {}) {
  const asked = serve(answers)
  const context = editor({ interpretation })
  const { wrapper } = await mounted(InterpretationEditor, { path: 'interpretation', fields }, context.provide)
  return { wrapper, asked, ...context, rows: () => context.draft.value.interpretation.rows }
}

describe('the interpretation table', () => {
  it('narrows a number by one bound or two, and widens it again', async () => {
    const { wrapper, rows } = await table({ measures: [measure('Angle')], rows: [row('reduced')] })
    const narrow = () => wrapper.findAll('button').find((it) => ['any; restrict', 'and'].includes(it.text()))
    await narrow()?.trigger('click')
    await wrapper.get('[data-test=bound-0] input').setValue('60')
    expect(rows()[0]?.conditions).toEqual([
      { measure: 'Angle', comparison: 'at_least', value: 60, choices: [] },
    ])
    await narrow()?.trigger('click')
    expect(rows()[0]?.conditions).toHaveLength(2)
    expect(narrow()).toBeUndefined()
    await wrapper.get('[aria-label="Remove this condition"]').trigger('click')
    await wrapper.get('[aria-label="Remove this condition"]').trigger('click')
    expect(rows()[0]?.conditions).toEqual([])
  })

  it('keeps the conditions of other measures when one changes', async () => {
    const both = [
      { measure: 'Press', comparison: null, value: null, choices: ['arm'] },
      { measure: 'Angle', comparison: 'at_least' as const, value: 10, choices: [] },
    ]
    const { wrapper, rows } = await table({
      measures: [measure('Press', ['arm', 'neck']), measure('Angle')],
      rows: [row('root', both)],
    })
    await wrapper.get('[data-test=bound-0] input').setValue('20')
    expect(rows()[0]?.conditions).toEqual([both[0], { ...both[1], value: 20 }])
    await wrapper.get('[data-test=bound-0] input').setValue('')
    expect(rows()[0]?.conditions?.[1]?.value).toBeNull()
  })

  it('adds and removes rows, and offers none before a measure has a name', async () => {
    const { wrapper, rows, draft } = await table({ measures: [measure('')], rows: [] })
    expect(wrapper.find('[data-test=add-row]').exists()).toBe(false)
    draft.value.interpretation = { measures: [measure('Angle')], rows: [row('A'), row('B')] }
    await flushPromises()
    await wrapper.get('[data-test=add-row]').trigger('click')
    expect(rows().map((it) => it.reading)).toEqual(['A', 'B', ''])
    await wrapper.get('[aria-label="Remove row 1"]').trigger('click')
    expect(rows().map((it) => it.reading)).toEqual(['B', ''])
  })

  it('says what the rows leave open, or that they leave nothing', async () => {
    const { wrapper, findings } = await table({ measures: [measure('Angle')], rows: [row('A')] })
    expect(wrapper.get('[data-test=table-verdict]').text()).toContain('exactly one interpretation')
    findings.value = [
      {
        code: 'interpretation_gap',
        field: 'interpretation',
        message: 'No row answers 60.',
        remedy: 'Add one.',
      },
      { code: 'no_caution', field: 'cautions', message: 'No caution.', remedy: 'Write it.' },
    ]
    await flushPromises()
    expect(wrapper.get('[data-test=table-verdict]').text()).toBe('No row answers 60. Add one.')
  })

  it('asks how soon of what is urgent', async () => {
    const { wrapper, rows } = await table({ measures: [measure('Angle')], rows: [row('reduced')] })
    expect(wrapper.find('[data-test=within-0]').exists()).toBe(false)
    await wrapper.get('input[type=checkbox]').setValue(true)
    await wrapper.get('[data-test=within-0] input').setValue('24')
    expect(rows()[0]).toMatchObject({ urgent: true, within_hours: 24 })
  })

  it('tries values out, and tells a gap from a value that is still open', async () => {
    let reading = { rows: [0], missing: [] as string[] }
    const { wrapper, asked } = await table(
      { measures: [measure('Angle'), measure('Other')], rows: [{ ...row('reduced'), urgent: true }] },
      { 'POST /readings': () => reading },
    )
    const type = async (value: string) => {
      await wrapper.get('[data-test=try-Angle] input').setValue(value)
      await eventually(async () => {
        await flushPromises()
        expect(asked.at(-1)?.body).toMatchObject({ values: { Angle: Number(value) } })
      })
      await flushPromises()
    }
    const answer = () => wrapper.get('[data-test=try-answer]').text()
    expect(answer()).toBe('')
    await type('40')
    expect(answer()).toContain('reduced')
    expect(answer()).toContain('Refer promptly.')
    reading = { rows: [], missing: ['Other'] }
    await type('50')
    expect(answer()).toBe('Still open: Other.')
    reading = { rows: [], missing: [] }
    await type('60')
    expect(answer()).toContain('the table has a gap here')
  })
})
