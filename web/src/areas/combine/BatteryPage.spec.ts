import { flushPromises, type VueWrapper } from '@vue/test-utils'
import { beforeEach, describe, expect, it } from 'vitest'

import type { BatteryInput } from '@/shared/api/types'
import { type Asked, enter, eventually, mounted, plain, problem, serve } from '@/shared/mount.setup'
import BatteryPage from './BatteryPage.vue'
import { claimed, three } from './battery.setup'

const row = (id: string, name: string, studied = true) => ({
  id,
  name,
  studies: studied ? 3 : 0,
  condition: 'Weakness',
  summary: studied ? three.published.summary : null,
})

async function page(query: Record<string, string | string[]>, more = {}) {
  enter(['read'])
  const asked = serve({
    'GET /regions': [{ region: 'hand_wrist', tests: 4 }],
    'GET /conditions': [
      { region: 'hand_wrist', name: 'Weakness', tests: 4, pre_test: 0.3, setting: 'clinic' },
    ],
    'GET /tests': [
      row('a', 'Thumb lift'),
      row('b', 'Thumb press'),
      row('c', 'Thumb hold'),
      row('d', 'Thumb look', false),
    ],
    'POST /combine/battery': (one: Asked) => {
      const { tests, at_least } = one.body as BatteryInput
      const known = three.tests.filter((it) => tests.some(({ test }) => test === it.test))
      return { ...three, at_least, tests: known, without: three.without.slice(0, known.length) }
    },
    ...more,
  })
  const { wrapper, router } = await mounted(
    BatteryPage,
    {},
    {},
    { region: 'hand_wrist', ...query },
    'battery',
  )
  await flushPromises()
  const sent = () => asked.findLast((one) => one.path === '/combine/battery')?.body as BatteryInput
  return { wrapper, router, asked, sent }
}
const choose = (select: unknown, to: string | null) =>
  (select as VueWrapper).vm.$emit('update:modelValue', to)
const THREE = { in: ['a', 'b', 'c'], rule: '2' }

describe('a battery of tests', () => {
  beforeEach(() => (document.body.innerHTML = ''))

  it('asks for two tests first, offers none without figures, and keeps what is chosen in the address', async () => {
    const { wrapper, router, asked } = await page({})
    await eventually(() => expect(wrapper.findAll('[data-test=battery-test]')).toHaveLength(4))
    expect(wrapper.find('[data-test=choose-tests]').exists()).toBe(true)
    expect(
      wrapper.findAll('[data-test=battery-test] input[type=checkbox]').at(3)!.attributes('disabled'),
    ).toBeDefined()
    await wrapper.findAll('[data-test=battery-test] input[type=checkbox]').at(0)!.trigger('change')
    await wrapper.findAll('[data-test=battery-test] input[type=checkbox]').at(1)!.trigger('change')
    await eventually(() => expect(router.currentRoute.value.query.in).toEqual(['a', 'b']))
    await eventually(() => expect(asked.some((one) => one.path === '/combine/battery')).toBe(true))
    // "All" stays all when a test joins.
    await wrapper.findAll('[data-test=rules] input').at(1)!.trigger('change')
    await wrapper.findAll('[data-test=battery-test] input[type=checkbox]').at(2)!.trigger('change')
    await eventually(() => expect(router.currentRoute.value.query.rule).toBe('3'))
  })

  it('puts studies of the very rule first, and says how far the calculation is off and when both can rise', async () => {
    const { wrapper, sent } = await page(THREE)
    await eventually(() => expect(wrapper.find('[data-test=rule-published]').exists()).toBe(true))
    expect(sent()).toMatchObject({
      at_least: 2,
      dependence: { kind: 'correlation', with: 0.5, without: 0.5 },
    })
    const rows = wrapper.findAll('[data-test=rule-figures] tbody tr').map((it) => plain(it.text()))
    expect(rows[0]).toMatch(/1 study of this very rule.*Alder 2011.*70 %/s)
    expect(rows[1]).toContain('Calculated, moderate dependence')
    expect(rows[3]).toMatch(/whatever the dependence.*50 % – 90 %/s)
    expect(plain(wrapper.get('[data-test=rule-difference]').text())).toContain(
      'sensitivity 14 percentage points lower, specificity 3 percentage points higher',
    )
    expect(wrapper.get('[data-test=both-rise]').text()).toContain('up to a correlation of 0.05')
    expect(wrapper.get('[data-test=similar]').text()).toContain('Birch 2015')
    expect(wrapper.get('[data-test=similar]').text()).toContain('all positive (other tests)')
    expect(wrapper.get('[data-test=battery-dependence]').text()).toContain('purpose of both: provokes pain')
    const stairs = plain(wrapper.get('[data-test=staircase]').attributes('aria-label') ?? '')
    expect(stairs, 'a number that happens to nobody has no step').toContain(
      '1 positive 18 %; 3 positive 79 %',
    )
    expect(plain(wrapper.get('[data-test=count-table]').text())).toContain('happens to nobody')
  })

  it('filters the results of a test to a variant, sets the dependence of both classes, and compares with a battery kept', async () => {
    const { wrapper, router, sent } = await page(THREE)
    await eventually(() => expect(wrapper.find('[data-test=only-variant]').exists()).toBe(true))
    choose(wrapper.getComponent('[data-test=only-variant]'), 'seated')
    await eventually(() => expect(router.currentRoute.value.query.variant).toEqual(['a.seated']))
    await eventually(() =>
      expect(sent().tests[0]).toMatchObject({ selection: { only: { variant: ['seated'] } } }),
    )
    await wrapper.get('.apart input').setValue(true)
    await wrapper.get('[data-test=dependence-without]').setValue('0.2')
    await eventually(() =>
      expect(sent().dependence).toEqual({ kind: 'correlation', with: 0.5, without: 0.2 }),
    )
    await wrapper.get('[data-test=keep-battery]').trigger('click')
    await eventually(() => expect(wrapper.find('[data-test=compared-batteries]').exists()).toBe(true))
    await eventually(() => expect(router.currentRoute.value.query.against).toBe('2.a.b.c'))
    await wrapper.get('[data-test=drop-battery]').trigger('click')
    await eventually(() => expect(wrapper.find('[data-test=compared-batteries]').exists()).toBe(false))
  })

  it('drops a test that is gone from the address, and lets a choice that leaves no figures be taken back', async () => {
    const { wrapper, router } = await page(
      { in: ['a', 'b', 'gone'], variant: 'a.lying' },
      { 'POST /combine/battery': problem(422, 'fields_invalid') },
    )
    await eventually(() => expect(router.currentRoute.value.query.in).toEqual(['a', 'b']))
    await eventually(() => expect(wrapper.find('[role=alert]').exists()).toBe(true))
    choose(wrapper.getComponent('[data-test=only-variant]'), null)
    await eventually(() => expect(router.currentRoute.value.query.variant ?? []).toEqual([]))
  })

  it('keeps the tests of a link while the region is not known yet', async () => {
    let told: (regions: object) => void = () => {}
    const regions = new Promise((resolve) => (told = resolve))
    const elbow = [
      { region: 'hand_wrist', tests: 4 },
      { region: 'elbow', tests: 2 },
    ]
    const { wrapper, router, asked } = await page(
      { region: 'elbow', in: ['a', 'b'] },
      {
        'GET /regions': () => regions,
        'GET /conditions': [
          { region: 'elbow', name: 'Weakness', tests: 2, pre_test: 0.3, setting: 'clinic' },
        ],
        'GET /tests': (one: Asked) =>
          one.path.includes('region=elbow') ? [row('a', 'Elbow lift'), row('b', 'Elbow press')] : [],
      },
    )
    await eventually(() => expect(asked.some((it) => it.path.startsWith('/tests?'))).toBe(true))
    await flushPromises()
    told(elbow)
    await eventually(() => expect(wrapper.findAll('[data-test=battery-test]')).toHaveLength(2))
    await flushPromises()
    expect(router.currentRoute.value.query.in).toEqual(['a', 'b'])
  })

  it('says of a claim whether it can be, by the catalogue or by what its source gives', async () => {
    const claims: Asked[] = []
    const { wrapper } = await page(THREE, {
      'POST /combine/claims': (one: Asked) => {
        claims.push(one)
        return claimed(
          typeof (one.body as { tests: { sensitivity: unknown }[] }).tests[0]!.sensitivity === 'string',
        )
      },
    })
    await eventually(() => expect(wrapper.find('[data-test=claim-check]').exists()).toBe(true))
    await wrapper.get('[data-test=claim-sensitivity] input').setValue('95')
    await eventually(() => expect(wrapper.find('[data-test=claim-verdict]').exists()).toBe(true))
    const verdict = () => plain(wrapper.get('[data-test=claim-verdict]').text())
    expect(verdict()).toContain('Impossible')
    expect(verdict()).toContain('Sensitivity: at most 90 % is possible.')
    expect(verdict()).toContain('every single sensitivity to be 5.1 percentage points higher')
    expect(verdict()).toContain('needs a correlation between 0.20 and 0.35')
    choose(wrapper.getComponent('[data-test=claim-singles]'), 'typed')
    await eventually(() => expect(verdict()).toContain('Possible only if the single figures differ'))
    expect(verdict()).toContain('Only because the single figures are rounded.')
    expect((claims.at(-1)!.body as { tests: unknown[] }).tests[0]).toEqual({
      sensitivity: '80',
      specificity: '70',
    })
  })
})
