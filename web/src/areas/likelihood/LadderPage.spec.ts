import { flushPromises } from '@vue/test-utils'
import { VSelect } from 'vuetify/components'
import { beforeEach, describe, expect, it } from 'vitest'

import type { TestRow } from '@/shared/api/types'
import { enter, eventually, mounted, plain, problem, serve } from '@/shared/mount.setup'
import { ladderGroups } from './ladderGroups'
import LadderPage from './LadderPage.vue'

const ratio = (estimate: number) => ({ estimate, lower: estimate / 2, upper: estimate * 2 })
const row = (id: string, condition: string, more: Partial<TestRow> = {}) =>
  ({
    id,
    name: `Test ${id}`,
    region: 'hand_wrist',
    condition,
    leading: true,
    other_conditions: [],
    levels: [],
    studies: 4,
    patients: 1200,
    evidence: 'several_studies',
    equipment: [],
    irritation: 1,
    sample: true,
    summary: { lr_positive: ratio(4), lr_negative: ratio(0.25) },
    ahead_positive: ratio(4.5),
    ahead_negative: ratio(0.3),
    ...more,
  }) as TestRow
const unstudied = { studies: 0, evidence: 'not_studied', summary: null, ahead_positive: null } as const
const rows = [
  row('a', 'Weakness'),
  row('b', 'Numbness'),
  row('c', 'Weakness', { ...unstudied, ahead_negative: null, sample: false }),
]

async function page(query: Record<string, string>, list: unknown = rows) {
  enter(['read'])
  const asked = serve({
    'GET /regions': [{ region: 'hand_wrist', tests: 3 }],
    'GET /conditions': [
      { region: 'hand_wrist', name: 'Weakness', tests: 2, pre_test: 0.3, setting: 'clinic' },
      { region: 'hand_wrist', name: 'Numbness', tests: 1, pre_test: 0.1, setting: '' },
    ],
    'GET /tests': list,
    'POST /likelihood/answers': [
      { test: 'a', changed: false, after_positive: ratio(0.4), after_negative: null, frequencies: null },
    ],
  })
  const mountedPage = await mounted(LadderPage, {}, {}, { region: 'hand_wrist', ...query })
  await flushPromises()
  return { ...mountedPage, asked }
}

describe('the likelihood ladder', () => {
  beforeEach(() => (document.body.innerHTML = ''))

  it('has a row for each level of a finding, on the side to which it moves the probability', async () => {
    const levels = [
      { name: 'easy', with: 11, without: 32, ratio: ratio(0.3), converged: true },
      { name: 'hard', with: 38, without: 5, ratio: ratio(6), converged: true },
      { name: 'never seen', with: 0, without: 0, ratio: null, converged: true },
    ]
    const { wrapper, asked } = await page({}, [row('a', 'Weakness', { levels, level_studies: 2 })])
    await eventually(() => expect(wrapper.findAll('[data-test=ratio-level]')).toHaveLength(3))
    const [easy, hard, never] = wrapper.findAll('[data-test=ratio-level]')
    expect(plain(easy!.get('.lowers').text())).toMatch(/^0\.30/)
    expect(easy!.get('.raises').text()).toBe('')
    expect(plain(hard!.get('.raises').text())).toMatch(/^6\.0/)
    expect(hard!.text()).toContain('level in 2 studies')
    expect(never!.find('b').exists(), 'no ratio, no figure').toBe(false)
    const list = asked.find((one) => one.path.startsWith('/tests?'))!.path
    expect(list, 'a test stands under each of its conditions').toContain('each_condition=true')
  })

  it('groups tests, pins them side by side, and keeps all of it in the address', async () => {
    const { wrapper, router, asked } = await page({ ahead: 'true' })
    await eventually(() => expect(wrapper.findAll('[data-test=ratio-row]')).toHaveLength(3))
    const groups = wrapper.findAll('.group').map((one) => plain(one.text()))
    expect(groups[0], 'what is asked about comes first').toMatch(
      /^Weakness\s*usually 30 % before testing, clinic/,
    )
    expect(groups[1]).toMatch(/^Numbness\s*usually 10 % before testing$/)
    const first = wrapper.findAll('[data-test=ratio-row]')[0]!
    expect(plain(first.text())).toMatch(
      /0\.25\s*0\.13–0\.50\s*⟨0\.15–0\.60⟩.*4\.0\s*2\.0–8\.0\s*⟨2\.3–9\.0⟩/s,
    )
    expect(first.findAll('[data-test=ahead]')).toHaveLength(2)
    expect(plain(wrapper.findAll('[data-test=ratio-row]')[1]!.text())).toContain('not studied')

    for (const [nth, pinned] of [
      [0, ['a']],
      [1, ['a', 'c']],
      [2, ['a', 'c', 'b']],
    ] as const) {
      await wrapper.findAll('[data-test=pin]')[nth]!.trigger('click')
      await eventually(() => expect(router.currentRoute.value.query.pin).toEqual(pinned))
    }
    const said = plain(wrapper.get('[data-test=pinned]').text())
    expect(said).toContain('4 studies, 1 200 people')
    expect(said).toMatch(/If positive, from 30 %\s*40 % \(20–80 %\)\s*not estimable\s*other condition/)
    const choose = (css: string, value: unknown) =>
      wrapper.findComponent<typeof VSelect>(css).vm.$emit('update:modelValue', value)
    choose('[data-test=group]', 'none')
    await eventually(() => expect(wrapper.find('.group').exists()).toBe(false))
    choose('[data-test=scope]', 'condition')
    await eventually(() => expect(asked.some((one) => one.path.includes('condition=Weakness'))).toBe(true))
    expect(wrapper.get('[data-test=ladder-pdf]').attributes('href')).toBe(
      '/api/v1/likelihood/ladder/pdf?kind=special&sort=lr_positive&region=hand_wrist&condition=Weakness&group=none&ahead=true',
    )
    expect(wrapper.get('[data-test=ladder-csv]').attributes('href')).toMatch(/^\/api\/v1\/tests.csv\?/)
  })

  it('says when there is nothing, and asks again after a failure', async () => {
    const { wrapper } = await page({}, [])
    await eventually(() => expect(wrapper.text()).toContain('No test to show'))
    expect(wrapper.find('[data-test=ladder-pdf]').exists(), 'nothing to print').toBe(false)
    let answers = 0
    const failing = await page({}, () => (answers++ ? rows : problem(503, 'unavailable')))
    await eventually(() => expect(failing.wrapper.find('.notice.error').exists()).toBe(true))
    await failing.wrapper.get('.notice button').trigger('click')
    await eventually(() => expect(failing.wrapper.findAll('[data-test=ratio-row]')).toHaveLength(3))
  })

  it('lets the oldest pin go when there are more than can be compared', async () => {
    const many = 'abcdefg'.split('').map((id) => row(id, 'Weakness'))
    const { wrapper, router } = await page({ pin: 'a' }, many)
    await eventually(() => expect(wrapper.findAll('[data-test=pin]')).toHaveLength(7))
    for (const nth of [1, 2, 3, 4, 5]) {
      await wrapper.findAll('[data-test=pin]')[nth]!.trigger('click')
      await eventually(() => expect([router.currentRoute.value.query.pin].flat()).toContain('abcdef'[nth]))
    }
    expect(router.currentRoute.value.query.pin).toEqual(['b', 'c', 'd', 'e', 'f'])
    await wrapper.findAll('[data-test=pinned] thead button')[0]!.trigger('click')
    await eventually(() => expect(router.currentRoute.value.query.pin).toEqual(['c', 'd', 'e', 'f']))
  })

  it('puts regions from head to foot', () => {
    const neck = row('n', 'Root', { region: 'neck' })
    const titles = (by: 'region' | 'none') =>
      ladderGroups([...rows, neck], by, '').map((group) => group.title)
    expect(titles('region')).toEqual(['Neck', 'Hand and wrist'])
    expect(titles('none')).toEqual([''])
  })
})
