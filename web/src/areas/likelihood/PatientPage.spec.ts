import { flushPromises } from '@vue/test-utils'
import { beforeEach, describe, expect, it } from 'vitest'

import { type Asked, enter, eventually, mounted, plain, problem, serve } from '@/shared/mount.setup'
import { after, background, before } from './patient.setup'
import PatientPage from './PatientPage.vue'

async function page(query: Record<string, string | string[]>, more = {}) {
  enter(['read'])
  const asked = serve({
    'GET /regions': [{ region: 'hand_wrist', tests: 3 }],
    'GET /conditions': [
      { region: 'hand_wrist', name: 'Weakness', tests: 3, pre_test: 0.3, setting: 'clinic' },
      { region: 'hand_wrist', name: 'Numbness', tests: 0, pre_test: 0.1, setting: '' },
    ],
    'POST /likelihood/patient': (one: Asked) => {
      const { findings, condition } = one.body as { findings: typeof after.findings; condition: string }
      if (condition === 'Numbness') return { ...before, tests: [{ ...before.tests[1]!, test: 'd' }] }
      return findings.length ? { ...after, findings } : before
    },
    'POST /likelihood/background': background,
    ...more,
  })
  const { wrapper, router } = await mounted(
    PatientPage,
    {},
    {},
    { region: 'hand_wrist', ...query },
    'patient',
  )
  await flushPromises()
  const sent = () =>
    asked.findLast((one) => one.path === '/likelihood/patient')?.body as Record<string, unknown>
  return { wrapper, router, asked, sent }
}

describe('one patient', () => {
  beforeEach(() => (document.body.innerHTML = ''))

  it('looks at the most informative test, and draws what both its results would do', async () => {
    const { wrapper, router } = await page({ reassure: '5', act: '60' })
    await eventually(() => expect(router.currentRoute.value.query.look).toBe('b'))
    const names = wrapper.findAll('[data-test=patient-test]').map((row) => plain(row.get('.look').text()))
    expect(names).toEqual(['Thumb press', 'Thumb lift', 'Thumb look'])
    const thought = wrapper.findAll('[data-test=walk-thought]').map((row) => plain(row.text()))
    expect(thought[0]).toMatch(/If Thumb press is positive.*× > 2\.5 \(2\.5–∞\).*> 50 %/s)
    expect(thought[1]).toContain('If Thumb press is negative')
    const worth = plain(wrapper.get('[data-test=test-worth]').text())
    expect(worth).toContain('0 of 22 were false positives')
    expect(worth).toContain('between 5.0 % and 30 % or between 20 % and 85 %')
    expect(worth).toContain('With the least favourable limits of its likelihood ratios: never.')
    expect(worth).toContain(
      'Treating by the test has the highest net benefit for thresholds from 10 % to 60 %.',
    )
    expect(plain(wrapper.get('[data-test=lead]').text())).toBe(
      'Before testing this patient is between the thresholds.',
    )
    const unstudied = wrapper.findAll('[data-test=patient-test]')[2]!
    expect(unstudied.find('button.result').exists(), 'what cannot be computed cannot be said').toBe(false)
  })

  it('puts what was found into the address, asks with it, and takes it back', async () => {
    const { wrapper, router, sent } = await page({
      reassure: '5',
      act: '60',
      low: '20',
      high: '40',
      look: 'a',
    })
    await eventually(() => expect(wrapper.findAll('[data-test=patient-test]')).toHaveLength(3))
    const row = () =>
      wrapper.findAll('[data-test=patient-test]').find((one) => plain(one.text()).includes('Thumb lift'))!
    await row().get('[data-test=found-positive]').trigger('click')
    await eventually(() => expect(router.currentRoute.value.query.found).toEqual(['a.positive']))
    await eventually(() => expect(wrapper.findAll('[data-test=walk-found]')).toHaveLength(1))
    expect(sent()).toMatchObject({
      condition: 'Weakness',
      pre_test: 0.3,
      range: [0.2, 0.4],
      thresholds: { reassure_below: 0.05, treat_above: 0.6 },
      findings: [{ test: 'a', positive: true }],
      correlation: 0.5,
    })
    await row().get('[data-test=found-negative]').trigger('click')
    await eventually(() => expect(router.currentRoute.value.query.found).toEqual(['a.negative']))
    await row().get('[data-test=found-negative]').trigger('click')
    await eventually(() => expect(router.currentRoute.value.query.found).toEqual([]))
  })

  it('takes a level for a result, whatever its name, and takes it back', async () => {
    const { wrapper, router, sent } = await page({ pretest: '30' })
    await eventually(() => expect(wrapper.findAll('[data-test=found-level]')).toHaveLength(2))
    const [easy, hard] = wrapper.findAll('[data-test=found-level]')
    expect(plain(hard!.text())).toContain('hard, 1.5 cm')
    expect(easy!.classes()).toContain('negative')
    await hard!.trigger('click')
    await eventually(() => expect(router.currentRoute.value.query.found).toEqual(['b.level.hard, 1.5 cm']))
    await eventually(() => expect(sent()).toMatchObject({ findings: [{ test: 'b', level: 'hard, 1.5 cm' }] }))
    await hard!.trigger('click')
    await eventually(() => expect(router.currentRoute.value.query.found).toEqual([]))
  })

  it('says what dependence would make of it, what limits it, and what it would mean elsewhere', async () => {
    const { wrapper, router } = await page({
      found: ['a.positive', 'c.negative'],
      reassure: '5',
      act: '60',
      look: 'a',
    })
    await eventually(() => expect(wrapper.find('[data-test=spectrum]').exists()).toBe(true))
    const found = wrapper.findAll('[data-test=walk-found]').map((line) => plain(line.text()))
    expect(found[0]).toContain('treat or refer (uncertain)')
    expect(found[1]).toContain('not estimable: no effect on the probability')
    expect(plain(wrapper.get('[data-test=walk-dependent]').text())).toContain('51 %')
    expect(plain(wrapper.get('[data-test=lead]').text())).toBe(
      'The results so far lead to “treat or refer”, but not with the whole interval. With conditional dependence they lead to “test further” only.',
    )
    const depends = plain(wrapper.get('[data-test=dependence]').text())
    expect(depends).toContain('Thumb lift and Thumb look both load: Median nerve.')
    expect(depends).toContain('Independent: 63 %. With moderate conditional dependence: 51 %.')
    const slider = wrapper.get<HTMLInputElement>('[data-test=correlation]')
    slider.element.value = '0.8'
    await slider.trigger('input')
    await eventually(() => expect(router.currentRoute.value.query.depend).toBe('0.8'))
    const guards = plain(wrapper.get('[data-test=guards]').text())
    expect(guards).toContain(
      'The pre-test probability here is 30 %; the prevalence in the studies was 50 % to 60 %.',
    )
    expect(guards).toContain('occasions is low: 0.31, fair.')
    expect(guards).toMatch(/Thumb press\s*None found in the data/)
    const elsewhere = wrapper.findAll('[data-test=spectrum] tbody tr').map((line) => plain(line.text()))
    expect(elsewhere[0]).toMatch(/This patient\s*30 %\s*63 %/)
    expect(elsewhere[1]).toContain('Usual for the condition')
    expect(elsewhere[2]).toMatch(/primary care: 1 500 people, 2 studies\s*20 %\s*50 %/)
  })

  it('moves the pre-test probability by keys, and keeps thresholds in their order', async () => {
    const { wrapper, router } = await page({ look: 'a' })
    await eventually(() => expect(wrapper.find('[data-test=walk-handle]').exists()).toBe(true))
    const handle = wrapper.get('[data-test=walk-handle]')
    const value = () => handle.attributes('aria-valuenow')
    expect(value()).toBe('30')
    await handle.trigger('keydown', { key: 'ArrowRight' })
    expect(value(), 'at once').toBe('31')
    await handle.trigger('keydown', { key: 'ArrowLeft', shiftKey: true })
    await handle.trigger('keydown', { key: 'PageUp' })
    await eventually(() => expect(router.currentRoute.value.query.pretest).toBe('41'))
    await handle.trigger('keydown', { key: 'Home' })
    expect(value()).toBe('1')

    const type = async (name: string, to: string) => {
      const field = wrapper.get<HTMLInputElement>(`[data-test=${name}]`)
      field.element.value = to
      await field.trigger('input')
    }
    const said = () => plain(wrapper.get('[data-test=thresholds]').text())
    expect(said()).toContain('Without thresholds the page cannot say')
    await type('threshold-reassure', '60')
    expect(said()).toContain('Set both.')
    await type('threshold-act', '40')
    expect(said()).toContain('The threshold for reassurance must not be above the other one.')
    expect(router.currentRoute.value.query.act, 'nothing wrong comes into the question').toBeUndefined()
    await type('threshold-reassure', '5,0')
    await eventually(() =>
      expect(router.currentRoute.value.query).toMatchObject({ reassure: '5', act: '40' }),
    )
    const field = (name: string) => wrapper.get<HTMLInputElement>(`[data-test=${name}]`).element.value
    expect([field('threshold-reassure'), field('threshold-act')]).toEqual(['5', '40'])
    await type('range-low', '50')
    await type('range-high', '70')
    expect(said()).toContain('The range must include the pre-test probability.')
    // What was meant for one condition does not stand there for another.
    await router.replace({ query: { region: 'hand_wrist', condition: 'Numbness' } })
    await eventually(() => expect(field('threshold-act')).toBe(''))
    expect([field('threshold-reassure'), field('range-low'), field('range-high')]).toEqual(['', '', ''])
  })

  it('takes a threshold from gain and harm', async () => {
    const weigh = (one: Asked) =>
      (one.body as { benefit: number }).benefit > 0
        ? { threshold: 0.1 }
        : problem(422, 'invalid', [
            { field: 'benefit', code: 'invalid', value: '0', message: 'Not so.', remedy: 'Say.' },
          ])
    const { wrapper, router } = await page({ look: 'a' }, { 'POST /likelihood/threshold': weigh })
    await eventually(() => expect(wrapper.find('[data-test=stakes-benefit]').exists()).toBe(true))
    await wrapper.get('[data-test=stakes-benefit]').setValue('much')
    expect(wrapper.get('[data-test=thresholds]').text()).toContain('Benefit and harm are numbers above 0.')
    await wrapper.get('[data-test=stakes-benefit]').setValue('0')
    await wrapper.get('[data-test=stakes-harm]').setValue('1')
    await eventually(() =>
      expect(plain(wrapper.get('[data-test=thresholds]').text())).toContain('Not so. Say.'),
    )
    await wrapper.get('[data-test=stakes-benefit]').setValue('9')
    await eventually(() =>
      expect(plain(wrapper.get('[data-test=stakes-answer]').text())).toContain(
        'Treating is worthwhile above 10 %.',
      ),
    )
    for (const button of wrapper.findAll('[data-test=stakes-answer] button')) await button.trigger('click')
    await eventually(() =>
      expect(router.currentRoute.value.query).toMatchObject({ reassure: '10', act: '10' }),
    )
  })

  it('says when there is no test, and when an address asks for what is not there', async () => {
    const nothing = { ...before, tests: [], benefit: [], frequencies: null }
    const { wrapper } = await page({}, { 'POST /likelihood/patient': nothing })
    await eventually(() => expect(wrapper.find('[data-test=patient-none]').exists()).toBe(true))
    const bare = await page({}, { 'GET /conditions': [] })
    await eventually(() => expect(bare.wrapper.find('[data-test=patient-none]').exists()).toBe(true))
    expect(bare.asked.some((one) => one.path.startsWith('/likelihood'))).toBe(false)
    // Of another condition neither the results nor the test that was looked at are asked about.
    const other = await page({ found: ['a.positive'], look: 'a' })
    await eventually(() => expect(other.wrapper.findAll('[data-test=walk-found]')).toHaveLength(1))
    await other.router.replace({ query: { ...other.router.currentRoute.value.query, condition: 'Numbness' } })
    await eventually(() =>
      expect(other.sent()).toMatchObject({ condition: 'Numbness', findings: [], focus: 'd' }),
    )
    expect(other.router.currentRoute.value.query).not.toHaveProperty('found')
    const refused = await page(
      { found: 'gone.positive' },
      { 'POST /likelihood/patient': () => problem(422, 'x') },
    )
    await eventually(() => expect(refused.wrapper.find('.notice.error').exists()).toBe(true))
    await refused.wrapper.findAll('.notice button').at(-1)!.trigger('click')
    await eventually(() => expect(refused.router.currentRoute.value.query.found).toEqual([]))
  })
})
