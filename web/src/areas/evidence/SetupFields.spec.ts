import { flushPromises } from '@vue/test-utils'
import { describe, expect, it } from 'vitest'

import type { StudySetup } from '@/shared/api/types'
import { mounted } from '@/shared/mount.setup'
import SetupFields from './SetupFields.vue'
import { setupWords } from './setupWords'

/** Nothing else is reported. */
const only = (said: Partial<StudySetup>) => said as StudySetup

describe('how a study was done', () => {
  it('is said in few words, of what the report says only', () => {
    expect(setupWords(undefined)).toEqual([])
    expect(setupWords(only({}))).toEqual([])
    const setup = only({
      design: 'one_group',
      setting: 'primary_care',
      state: 'awake',
      people: 90,
      age: 48,
      youngest: 19,
      oldest: 77,
      women: 61,
      first_year: 2016,
      last_year: 2016,
      country: 'Vessmark (made up)',
    })
    expect(setupWords(setup).join(', ')).toBe(
      '90 examined, mean age 48 (19–77), 61\u202f% women, cohort (single-gate), primary care, awake, Vessmark (made up), 2016',
    )
    expect(setupWords(only({ youngest: 19, oldest: 77, last_year: 2020 }))).toEqual(['aged 19–77', '2020'])
    expect(setupWords(only({ youngest: 19, first_year: 2018, last_year: 2020 }))).toEqual(['2018–2020'])
  })

  it('keeps numbers as numbers, empty ones not at all, and opens where something is wrong', async () => {
    let faults: Record<string, string[]> = {}
    let setup = only({ people: 90, state: 'awake' })
    const { wrapper } = await mounted(SetupFields, {
      modelValue: setup,
      of: (field: string) => faults[field] ?? [],
      'onUpdate:modelValue': async (to: StudySetup) => {
        setup = to
        await wrapper.setProps({ modelValue: to })
      },
    })
    const details = wrapper.find('details').element as HTMLDetailsElement
    expect(details.open).toBe(false)
    expect(wrapper.find('[data-test=setup-said]').text()).toContain('90 examined · awake')
    const type = async (name: string, value: string) => {
      await wrapper.find(`[data-test=setup-${name}] input`).setValue(value)
      await flushPromises()
    }
    // Key by key: a comma on its way to a decimal is not taken away.
    const field = (name: string) => wrapper.find<HTMLInputElement>(`[data-test=setup-${name}] input`).element
    await type('women', '61,')
    expect([field('women').value, setup.women]).toEqual(['61,', 61])
    await type('women', '61,5')
    expect(field('women').value).toBe('61,5')
    await type('people', '')
    await type('age', 'forty')
    expect(setup).toEqual({ women: 61.5, people: undefined, age: -1, state: 'awake' })
    expect(field('age').value).toBe('forty')
    expect(wrapper.find('[data-test=setup-age]').text()).toContain('This is not a number')
    await type('age', '140')
    faults = { 'setup.age': ['140 is not possible here.'] }
    await wrapper.setProps({ of: (field: string) => faults[field] ?? [] })
    await flushPromises()
    expect(details.open).toBe(true)
    expect(wrapper.find('[data-test=setup-age]').text()).toContain('140 is not possible here.')
  })
})
