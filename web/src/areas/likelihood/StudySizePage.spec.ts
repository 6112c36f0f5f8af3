import { VSelect } from 'vuetify/components'
import { beforeEach, describe, expect, it } from 'vitest'

import { enter, eventually, mounted, plain, serve } from '@/shared/mount.setup'
import StudySizePage from './StudySizePage.vue'

describe('planning a study', () => {
  beforeEach(() => (document.body.innerHTML = ''))

  it('starts from the question and from a test, and asks only what can be answered', async () => {
    enter(['read'])
    const share = (estimate: number) => ({ estimate, lower: 0, upper: 1 })
    const size = { with_condition: 109, without_condition: 80, examined: 1363 }
    const asked = serve({
      'GET /regions': [{ region: 'hand_wrist', tests: 1 }],
      'GET /conditions': [{ region: 'hand_wrist', name: 'Weakness', tests: 1, pre_test: 0.08, setting: '' }],
      'GET /tests': [
        { id: 'a', name: 'Thumb lift', summary: { sensitivity: share(0.672), specificity: share(0.9) } },
      ],
      'POST /likelihood/study-size': {
        accuracy: [
          { width: 0.15, size },
          { width: 0.05, size: null },
        ],
        agreement: [{ width: 0.3, size: null }],
      },
    })
    const { wrapper } = await mounted(StudySizePage, {}, {}, { region: 'hand_wrist' })
    const sent = () => asked.findLast((one) => one.path === '/likelihood/study-size')?.body
    await eventually(() => expect(sent()).toMatchObject({ accuracy: { prevalence: 0.08, width: 0.15 } }))
    await eventually(() =>
      expect(plain(wrapper.get('[data-test=plan-answer]').text())).toContain('1 363 people to examine'),
    )
    const widths = wrapper.findAll('[data-test=plan-answer] tbody tr').map((line) => plain(line.text()))
    expect(widths[0], 'the narrowest first').toMatch(/5 %\s*–/)
    expect(plain(wrapper.get('[data-test=plan-agreement-answer]').text())).toContain('More than ten million')
    wrapper.findComponent<typeof VSelect>('[data-test=plan-from]').vm.$emit('update:modelValue', 'a')
    await eventually(() =>
      expect(sent()).toMatchObject({ accuracy: { sensitivity: 0.67, specificity: 0.9 } }),
    )
    await wrapper.get('[data-test=plan-width] input').setValue('0')
    await wrapper.get('[data-test=plan-kappa] input').setValue('1,2')
    await eventually(() => expect(plain(wrapper.text())).toContain('From 0 to below 1'))
    expect(wrapper.find('[data-test=plan-answer]').exists(), 'no old answer beside a wrong field').toBe(false)
    expect(plain(wrapper.text())).toContain('Between 0 and 100')
  })
})
