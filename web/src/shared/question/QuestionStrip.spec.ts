import { flushPromises } from '@vue/test-utils'
import { beforeEach, describe, expect, it } from 'vitest'

import { enter, eventually, mounted, plain, serve } from '@/shared/mount.setup'
import QuestionStrip from './QuestionStrip.vue'

async function strip(query: Record<string, string>) {
  enter(['read'])
  serve({
    'GET /regions': [
      { region: 'hand_wrist', tests: 2 },
      { region: 'neck', tests: 1 },
    ],
    'GET /conditions': [
      { region: 'hand_wrist', name: 'Weakness', tests: 2, pre_test: 0.35, setting: 'a hand clinic' },
      { region: 'hand_wrist', name: 'Numbness', tests: 1, pre_test: null, setting: '' },
      { region: 'neck', name: 'Root', tests: 1, pre_test: 0.1, setting: '' },
    ],
  })
  const { wrapper, router } = await mounted(QuestionStrip, {}, {}, query)
  await eventually(() => expect(wrapper.findAll('[data-test=condition] option').length).toBeGreaterThan(0))
  return { wrapper, query: () => router.currentRoute.value.query }
}

describe('the question', () => {
  beforeEach(() => (document.body.innerHTML = ''))

  it('says how sure the pre-test probability is and from where on something is done', async () => {
    const { wrapper } = await strip({ pretest: '30', low: '20', high: '45', reassure: '5', act: '60' })
    const more = wrapper.get('[data-test=question-more]')
    expect(plain(more.text())).toBe('between 20 % and 45 %; reassure below 5.0 %, treat or refer above 60 %')
    expect(more.attributes('href'), 'it leads to where they are set, and is not lost on the way').toMatch(
      /patient.*pretest=30&low=20&high=45&reassure=5&act=60/,
    )
    expect(wrapper.text()).toContain('your own value')
  })

  it('takes nothing for a range or thresholds that is none', async () => {
    const odd: Record<string, string>[] = [
      { pretest: '30', low: '40', high: '50' },
      { low: '20' },
      { reassure: '60', act: '5' },
      { reassure: '0', act: '100' },
      { reassure: 'x', act: 'y' },
    ]
    for (const query of odd) {
      const { wrapper } = await strip(query)
      expect(wrapper.find('[data-test=question-more]').exists(), JSON.stringify(query)).toBe(false)
    }
  })

  it('is followed at once, and written into the address when the hand rests', async () => {
    const { wrapper, query } = await strip({ search: 'thumb' })
    const field = wrapper.get<HTMLInputElement>('[data-test=pretest]')
    for (const p of ['20', '21', '22']) {
      await field.setValue(p)
      expect(wrapper.text(), 'what is shown goes with the hand').toContain('your own value')
      expect(query().pretest, 'the address does not').toBeUndefined()
    }
    await eventually(() => expect(query()).toEqual({ search: 'thumb', pretest: '22' }))
    await field.setValue('23')
    await wrapper.get('[data-test=condition]').setValue('Numbness')
    await new Promise((rest) => setTimeout(rest, 200))
    expect(query().pretest, 'it was meant for the other condition').toBeUndefined()
  })

  it('forgets them with the condition that they were for', async () => {
    const { wrapper, query } = await strip({ pretest: '30', low: '20', high: '45', reassure: '5', act: '60' })
    await wrapper.get('[data-test=condition]').setValue('Numbness')
    await eventually(() => expect(query()).toEqual({ region: 'hand_wrist', condition: 'Numbness' }))
    expect(wrapper.text()).toContain('no usual value known')
    await wrapper.get('[data-test=region]').setValue('neck')
    await eventually(() => expect(query()).toEqual({ region: 'neck' }))
    await flushPromises()
    expect(wrapper.get<HTMLInputElement>('[data-test=pretest]').element.value).toBe('10')
    await wrapper.get('[data-test=pretest]').setValue('150')
    expect(wrapper.text()).toContain('Between 0.1 and 99.9')
    await wrapper.get('[data-test=pretest]').setValue('12.5')
    await eventually(() => expect(query().pretest).toBe('12.5'))
  })
})
