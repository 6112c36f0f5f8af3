import { flushPromises } from '@vue/test-utils'
import { beforeEach, describe, expect, it } from 'vitest'

import { enter, mounted, problem, serve } from '@/shared/mount.setup'
import ConditionSection from './ConditionSection.vue'

const condition = (id: string, name: string, more: object = {}) => ({
  id,
  version: 2,
  region: 'hand_wrist',
  name,
  setting: '',
  pre_test: null,
  tests: 0,
  prevalence: [],
  ...more,
})

async function section(answers: Record<string, unknown> = {}, rights?: Parameters<typeof enter>[0]) {
  enter(rights)
  const asked = serve({
    'GET /conditions': [
      condition('a', 'Weakness', { setting: 'Sample clinic', pre_test: 0.35, tests: 3 }),
      condition('b', 'Stiffness'),
      condition('c', 'Elsewhere', { region: 'knee' }),
    ],
    ...answers,
  })
  const { wrapper } = await mounted(ConditionSection, { region: 'hand_wrist' })
  await flushPromises()
  const body = () => document.querySelector('[data-test=condition-dialog]')
  const fill = async (field: string, value: string) => {
    const input = body()?.querySelector<HTMLInputElement>(`[data-test=${field}] input`)
    if (!input) throw new Error(`no ${field}`)
    input.value = value
    input.dispatchEvent(new Event('input'))
    await flushPromises()
  }
  const save = async () => {
    body()?.querySelector('form')?.dispatchEvent(new Event('submit'))
    await flushPromises()
    await flushPromises()
  }
  return { wrapper, body, fill, save, changes: () => asked.filter((one) => one.method !== 'GET') }
}

describe('the target conditions of a region', () => {
  beforeEach(() => (document.body.innerHTML = ''))

  it('say how many tests they have and that a probability is not known', async () => {
    const { wrapper } = await section()
    const rows = wrapper.findAll('[data-test=condition-row]').map((row) => row.text())
    expect(rows).toHaveLength(2)
    expect(rows[0]).toMatch(/Weakness\s*35\s*%\s*Sample clinic\s*3 tests/)
    expect(rows[1]).toMatch(/Stiffness\s*not known\s*no test/)
  })

  it('are saved as shares of one, at the version that was read', async () => {
    const { wrapper, fill, save, changes } = await section({
      'PUT /conditions/a': condition('a', 'Weakness'),
    })
    await wrapper.get('[aria-label="Edit: Weakness"]').trigger('click')
    await flushPromises()
    await fill('condition-pretest', '12.5')
    wrapper.findComponent({ name: 'VCheckbox' }).vm.$emit('update:modelValue', true)
    await save()
    const [sent] = changes()
    expect(sent?.headers.get('If-Match')).toBe('"2"')
    expect(sent?.body).toEqual({
      region: 'hand_wrist',
      name: 'Weakness',
      setting: 'Sample clinic',
      pre_test: 0.125,
      prevalence: [],
      must_not_miss: true,
    })
  })

  it('leave the probability open when none is typed, and name what is refused', async () => {
    const fault = {
      field: 'name',
      code: 'duplicate' as const,
      value: '',
      message: 'Already there.',
      remedy: 'Choose.',
    }
    const { wrapper, body, fill, save, changes } = await section({
      'POST /conditions': () => problem(422, 'fields_invalid', [fault]),
    })
    await wrapper.get('[data-test=add-condition]').trigger('click')
    await flushPromises()
    await fill('condition-name', 'Weakness')
    await save()
    expect(changes()[0]?.body).toMatchObject({ name: 'Weakness', pre_test: null })
    expect(body()?.querySelector('[data-test=condition-name]')?.textContent).toContain(
      'Already there. Choose.',
    )
  })

  it('tell who was slower, and save over it when told again', async () => {
    let answer: unknown = problem(412, 'changed_meanwhile')
    const { wrapper, body, save, changes } = await section({ 'PUT /conditions/b': () => answer })
    await wrapper.get('[aria-label="Edit: Stiffness"]').trigger('click')
    await flushPromises()
    await save()
    expect(body()?.textContent).toContain('Somebody else has changed')
    answer = condition('b', 'Stiffness')
    await save()
    expect(changes().map((one) => one.headers.get('If-Match'))).toEqual(['"2"', '"5"'])
  })

  it('are not offered for editing to who may only read', async () => {
    const { wrapper } = await section({}, ['read'])
    expect(wrapper.findAll('button')).toHaveLength(0)
  })
})
