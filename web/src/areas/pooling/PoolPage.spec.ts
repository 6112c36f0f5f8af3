import { flushPromises } from '@vue/test-utils'
import { VSelect } from 'vuetify/components'
import { beforeEach, describe, expect, it } from 'vitest'

import type { PoolAnswer } from '@/shared/api/types'
import { type Asked, enter, eventually, mounted, problem, serve } from '@/shared/mount.setup'
import { ordered, poolRows, stands } from './poolRows'
import { answer, pooled, results } from './pool.setup'
import PoolPage from './PoolPage.vue'
import SnapshotPage from './SnapshotPage.vue'

const test = { id: 'a', name: 'Thumb lift', studies: 4, condition: 'Weakness' }
const sensitivity = {
  without: [
    {
      result: 'r2',
      study: 1,
      model: 'single_study',
      summary: { lr_positive: pooled.lr_positive },
      cook_distance: 0.1,
    },
    {
      result: 'r1',
      study: 0,
      model: 'single_study',
      summary: { lr_positive: { estimate: 2, lower: 1, upper: 3 } },
      cook_distance: 1.5,
    },
  ],
  alternatives: [{ choice: 'bivariate', pooled }],
  intervals: [
    { interval: 'posterior', summary: pooled },
    { interval: 'wald', summary: pooled },
  ],
  other_scales: [0.75, 3].map((prior_scale) => ({ ...pooled, prior_scale })),
  without_high_risk: { left_out: 2, pooled: null },
  without_one_armed: { left_out: 0, pooled },
  sides_as_people: [{ correlation: 0.5, results: 2, pooled }],
  uninterpretable: { tests: 5, of: 199, results: 1 },
  uninterpretable_taken: ['left_out', 'positive', 'negative'].map((taken) => ({ taken, pooled })),
  corrected_verification: { results: 2, not_corrected: 1, pooled },
  small_studies: null,
  small_studies_untested: 'too_few',
}

async function page(query: Record<string, string>, pool: unknown = answer, more = {}) {
  enter(['read', 'write_studies'])
  const asked = serve({
    'GET /regions': [{ region: 'hand_wrist', tests: 1 }],
    'GET /conditions': [{ region: 'hand_wrist', name: 'Weakness', tests: 1 }],
    'GET /tests': [test],
    'GET /tests/a/results': results,
    'GET /appraisals': [],
    'GET /snapshots': [],
    'POST /pools/answer': () => pool,
    'POST /pools/sensitivity': sensitivity,
    ...more,
  })
  const { wrapper, router } = await mounted(PoolPage, {}, {}, { region: 'hand_wrist', ...query })
  await flushPromises()
  const sent = () => asked.findLast((one) => one.path === '/pools/answer')?.body as Record<string, unknown>
  return { wrapper, router, asked, sent }
}

describe('the pooling page', () => {
  beforeEach(() => (document.body.innerHTML = ''))

  it('offers the tests that have results', async () => {
    const { wrapper, router, asked } = await page({})
    await eventually(() => expect(wrapper.find('[data-test=pool-offer]').exists()).toBe(true))
    expect(
      asked.some((one) => one.path === '/pools/answer'),
      'nothing is pooled unasked',
    ).toBe(false)
    await wrapper.get('[data-test=pool-offer]').trigger('click')
    await eventually(() => expect(router.currentRoute.value.query.tests).toEqual(['a']))
    await eventually(() => expect(wrapper.find('[data-test=pool-forest]').exists()).toBe(true))
  })

  it('asks for what the address says, reads the answer in words, and names why others are out', async () => {
    const query = {
      tests: 'a',
      setting: 'primary_care',
      from: '2010',
      off: 'r9',
      by: 'nonsense',
      model: 'fixed',
      interval: 'profile',
    }
    const { wrapper, sent } = await page(query)
    await eventually(() => expect(wrapper.find('[data-test=reading]').exists()).toBe(true))
    expect(sent()).toEqual({
      tests: ['a'],
      condition: 'Weakness',
      selection: { only: { setting: ['primary_care'] }, from: 2010, until: null, off: ['r9'] },
      by: null,
      model: 'fixed',
      interval: 'profile',
    })
    const said = wrapper.get('[data-test=reading]').text()
    expect(said).toContain(
      'A positive result raises the probability a little (LR+ 4.0), a negative result lowers it a little (LR− 0.25).',
    )
    expect(said).toContain('Only 2 studies report patients with and without the condition.')
    expect(said).toContain('The interval of LR+ includes 1')
    await eventually(() => expect(wrapper.findAll('[data-test=pool-row]')).toHaveLength(2))
    const agreed = wrapper.get('[data-test=agreement-beside]').text()
    expect(agreed).toMatch(/Cohen’s kappa\s*0\.31\s*\(0\.10–0\.52\),\s*fair.*2 studies, 80 people, I² 40/s)
    expect(agreed).toContain('Agreement is low')
    const out = wrapper.get('[data-test=pool-out]').text()
    expect(out).toContain('Report 3: another result of the same patients is pooled')
    expect(out).toContain('Report 4: Setting: not reported')
    await eventually(() => expect(wrapper.find('[data-test=influence]').exists()).toBe(true))
    const depends = wrapper.get('[data-test=sensitivity]').text()
    expect(depends).toContain('Report 1 has the most influence: without it LR+ changes from 4.0 to 2.0.')
    expect(depends).toMatch(/Without 2 at high risk of bias\s*nothing is left/)
    expect(depends).toContain('came down to: Separate random effects for sensitivity and specificity')
    expect(depends).toMatch(/2 results count sides.*Intraclass correlation 0\.5/s)
    expect(depends).toMatch(/5 of 199 tests.*left out.*Counted as positive.*Counted as negative/s)
    expect(depends).toMatch(/2 results corrected\s*1 not correctable.*used as reported/s)
    expect(depends).toContain('fewer than ten studies')
  })

  it('switches results off and on, and puts every choice into the address', async () => {
    const { wrapper, router, asked } = await page({ tests: 'a' })
    await eventually(() => expect(wrapper.findAll('[data-test=pool-switch]')).toHaveLength(2))
    const answers = () => asked.filter((one) => one.path === '/pools/answer').map((one) => one.body)
    const before = answers().length
    await wrapper.get('[data-test=pool-switch]').trigger('mouseenter')
    await eventually(() => expect(answers()).toHaveLength(before + 1))
    expect(answers().at(-1), 'a hand on the switch asks ahead').toMatchObject({ selection: { off: ['r1'] } })
    expect(router.currentRoute.value.query.off, 'and chooses nothing').toBeUndefined()
    await wrapper.get('[data-test=pool-switch]').trigger('change')
    await eventually(() => expect(router.currentRoute.value.query.off).toEqual(['r1']))
    await eventually(() => expect(wrapper.find('[data-test=pool-all-on]').exists()).toBe(true))
    expect(answers(), 'so that pressing it asks nothing').toHaveLength(before + 1)
    await wrapper.get('[data-test=pool-all-on]').trigger('click')
    await eventually(() => expect(router.currentRoute.value.query.off).toBeUndefined())
    const list = (css: string) =>
      wrapper.findAllComponents<typeof VSelect>(VSelect).find((one) => one.element.matches(css))!
    const choose = (css: string, value: unknown) => list(css).vm.$emit('update:modelValue', value)
    await wrapper.get('[data-test=pool-which]').trigger('click')
    choose('[data-test=only-setting]', ['', 'primary_care'])
    await eventually(() => expect(router.currentRoute.value.query.setting).toEqual(['', 'primary_care']))
    const rest = (css: string, value: unknown) => {
      const entries = list(css).props('items') as {
        value: unknown
        props: { onMouseenter: () => void }
      }[]
      entries.find((entry) => entry.value === value)!.props.onMouseenter()
    }
    rest('[data-test=only-setting]', '')
    const only = { selection: { only: { setting: ['primary_care'] } }, by: null }
    await eventually(() => expect(answers().at(-1), 'an entry rested on is asked ahead').toMatchObject(only))
    rest('[data-test=pool-by]', 'setting')
    await eventually(() => expect(answers().at(-1)).toMatchObject({ by: 'setting' }))
    const known = answers().length
    choose('[data-test=pool-by]', 'setting')
    await eventually(() => expect(router.currentRoute.value.query.by).toBe('setting'))
    expect(answers()).toHaveLength(known)
    choose('[data-test=pool-interval]', 'sandwich')
    await eventually(() => expect(answers().at(-1)).toMatchObject({ interval: 'sandwich' }))
    await eventually(() => expect(router.currentRoute.value.query.interval).toBe('sandwich'))
    choose('[data-test=pool-interval]', null)
    await eventually(() => expect(router.currentRoute.value.query.interval).toBeUndefined())
    choose('[data-test=pool-model]', 'auto')
    await wrapper.get('[data-test=pool-clear]').trigger('click')
    await eventually(() => expect(router.currentRoute.value.query.setting).toBeUndefined())
    expect(router.currentRoute.value.query.by, 'what is compared is no filter').toBe('setting')
  })

  it('has the classical answer beside a posterior one, and says what is the prior’s', async () => {
    const posterior = {
      ...pooled,
      interval: 'posterior',
      posterior: { prior_scale: 1.5 },
      classical: { ...pooled, lr_positive: { estimate: 5.5, lower: 3, upper: 9 } },
    }
    const methods = 'Results of 2 studies were pooled.'
    const { wrapper } = await page({ tests: 'a' }, { ...answer, pooled: posterior, methods })
    await eventually(() => expect(wrapper.find('[data-test=classical]').exists()).toBe(true))
    const ratio = () => wrapper.get('[data-test=measure-lr_positive]').text()
    expect(wrapper.get('[data-test=pooled]').text()).toContain('Posterior medians')
    expect(ratio()).not.toContain('5.5')
    await wrapper.get('[data-test=classical]').trigger('click')
    expect(ratio()).toContain('5.5 (3.0–9.0)')
    expect(wrapper.get('[data-test=methods]').text()).toContain(methods)
    await eventually(() => expect(wrapper.find('[data-test=priors]').exists()).toBe(true))
    const priors = wrapper.get('[data-test=priors]').text()
    expect(priors).toMatch(/Prior scale 0\.75.*Prior scale 1\.5.*Prior scale 3/s)
    expect(priors).toContain('with two studies it is large')
    const depends = wrapper.get('[data-test=sensitivity]').text()
    expect(depends, 'others only').toMatch(/With other intervals\s*Wald/)
    const refused = await page(
      { tests: 'a' },
      { ...answer, pooled: null, reading: null, not_pooled: 'no_interval' },
    )
    await eventually(() =>
      expect(refused.wrapper.get('[data-test=pool-empty]').text()).toContain(
        'These intervals do not go with',
      ),
    )
  })

  it('says when nothing is left, and when the server refuses', async () => {
    const rows = answer.rows.map((row) => ({ ...row, out: { code: 'years' } }))
    const nothing = { ...answer, pooled: null, reading: null, not_pooled: 'no_results', rows }
    const { wrapper } = await page({ tests: 'a' }, nothing)
    await eventually(() => expect(wrapper.find('[data-test=pool-empty]').exists()).toBe(true))
    expect(wrapper.get('[data-test=pool-out]').attributes('open'), 'the reasons stand open').toBeDefined()
    expect(wrapper.find('[data-test=freeze]').exists()).toBe(false)
    const refused = await page({ tests: 'a' }, problem(404, 'not_found'))
    await eventually(() => expect(refused.wrapper.find('.notice.error').exists()).toBe(true))
  })

  it('compares values in one model, each with its own mark', async () => {
    const level = (value: string) => ({ value, sample: true, pooled })
    const contrast = {
      level: 1,
      relative_sensitivity: { estimate: 0.5, lower: 0.25, upper: 0.9 },
      relative_specificity: null,
    }
    const test = { statistic: 4, df: 2, p: 0.0004 }
    const compared = {
      facet: 'setting',
      levels: [level('primary_care'), level('')],
      comparison: {
        levels: [
          { ...pooled, level: 0, k: 1 },
          { ...pooled, level: 1, k: 1 },
        ],
        contrasts: [contrast],
        test,
      },
      not_compared: null,
      same_people: [{ levels: [0, 1], pairs: 1 }],
    }
    const rows = answer.rows.map((row, nth) => ({ ...row, level: nth < 3 ? nth % 2 : null }))
    const { wrapper } = await page({ tests: 'a', by: 'setting' }, {
      ...answer,
      rows,
      compared,
    } as unknown as PoolAnswer)
    await eventually(() => expect(wrapper.findAll('[data-test=roc] .study')).toHaveLength(3))
    expect(wrapper.findAll('[data-test=roc] .study.level-1')).toHaveLength(1)
    expect(wrapper.get('[data-test=roc-panel]').text()).toContain('■ not reported')
    const said = wrapper.get('[data-test=compare]').text()
    expect(said).toContain('0.50 (0.25–0.90)')
    expect(said).toContain('p < 0.001.')
    expect(said).toContain('primary care and not reported: one comparison in the same people.')
    const forest = wrapper.get('[data-test=pool-forest]').text()
    expect(forest).toContain('Summary: primary care')
    expect(forest).toContain('in the comparison only')
  })
})

describe('the rows of a pool', () => {
  it('keep their order, or go by what is asked, and keep the place of what was switched off', () => {
    const rows = poolRows(answer, results.slice(0, 3))
    const ids = (of: typeof rows) => of.map(({ result }) => result.id)
    expect(ids(ordered(rows, 'entered'))).toEqual(['r1', 'r2', 'r3'])
    expect(ids(ordered(rows, 'sensitivity'))).toEqual(['r3', 'r2', 'r1'])
    expect(ids(ordered(rows, 'year')), 'what is not known keeps its order').toEqual(['r1', 'r2', 'r3'])
    expect(rows.map((row) => stands(row, false))).toEqual([true, true, false])
    rows[1]!.row = { ...rows[1]!.row, out: { code: 'switched_off' } }
    expect(stands(rows[1]!, false)).toBe(true)
  })
})

describe('a frozen pool', () => {
  beforeEach(() => (document.body.innerHTML = ''))

  it('says what has changed since, and by which thresholds it lies', async () => {
    enter(['read'])
    const counts = { tp: 20, fp: 1, fn: 5, tn: 24 }
    const crossing = (threshold: number) => ({ threshold, before: 'above', now: 'across' })
    const content = {
      format: 'pruvex-pool-snapshot/1',
      engine: 'pruvex-core 1',
      frozen_at: '2026-11-26T10:00:00Z',
      title: 'Wrist module',
      note: '',
      sample: true,
      condition: 'Weakness',
      tests: [{ id: 'a', name: 'Thumb lift' }],
      selection: { only: { setting: ['sports'] }, from: null, until: null, off: ['r9'] },
      model: 'auto',
      results: [{ id: 'r1', version: 1, test: 'a', report: 'Report 1', out: null, counts }],
      answer: pooled,
    }
    const asked = serve({
      'GET /regions': [],
      'GET /conditions': [],
      'GET /snapshots/s1': { id: 's1', hash: 'abc', by: null, at: '2026-11-26T10:00:00Z', snapshot: content },
      'GET /snapshots/s1/difference': (one: Asked) => ({
        stale: true,
        differences: [
          { result: 'r1', report: 'Report 1', code: 'changed', before: counts, now: { ...counts, tp: 21 } },
          { result: 'r2', report: 'Report 2', code: 'left', why: null },
          { result: 'r3', report: 'Report 3', code: 'left', why: { code: 'facet', facet: 'setting' } },
        ],
        now: null,
        lr_positive: crossing(Number(new URLSearchParams(one.path.split('?')[1]).get('lr_positive'))),
        lr_negative: { threshold: 0.2, before: null, now: null },
      }),
    })
    const { wrapper } = await mounted(SnapshotPage, { snapshot: 's1' })
    await eventually(() => expect(wrapper.find('[data-test=changes]').exists()).toBe(true))
    const changes = wrapper.findAll('[data-test=changes] li').map((line) => line.text())
    expect(changes).toEqual([
      'Report 1 changed: 20 / 1 / 5 / 24 → 21 / 1 / 5 / 24',
      'Report 2 left: it was deleted',
      'Report 3 left: Setting: not what was asked for',
    ])
    const trace = wrapper.get('[data-test=snapshot-results] a').attributes('href')
    expect(trace, 'a figure leads to its result').toMatch(/\/sheet\/a.*#result-r1$/)
    const field = wrapper.get<HTMLInputElement>('[data-test=threshold-lr_positive] input')
    field.element.value = '3'
    await field.trigger('change')
    await eventually(() =>
      expect(wrapper.get('[data-test=crossings]').text()).toContain(
        'The interval of LR+ by 3: all above then, across it now.',
      ),
    )
    expect(wrapper.get('[data-test=crossings]').text()).toContain('LR− by 0.2: not estimable, then and now.')
    expect(asked.at(-1)?.path).toBe('/snapshots/s1/difference?lr_positive=3&lr_negative=0.2')
    field.element.value = '0'
    await field.trigger('change')
    expect(wrapper.get('[data-test=threshold-lr_positive]').text()).toContain(
      'A threshold is a number above 0',
    )
    expect(asked.at(-1)?.path, 'the last one is kept').toContain('lr_positive=3&')
    expect(wrapper.get('[data-test=pool-now]').attributes('href')).toContain('tests=a&setting=sports&off=r9')
    expect(wrapper.get('[data-test=difference]').text()).toContain('Nothing is left to pool.')
  })
})
