import { flushPromises } from '@vue/test-utils'
import { beforeEach, describe, expect, it } from 'vitest'

import type { Right } from '@/shared/api/types'
import { type Asked, enter, mounted, problem, serve, eventually } from '@/shared/mount.setup'
import CataloguePage from './CataloguePage.vue'

const row = (name: string, more: object = {}) => ({
  id: name,
  name,
  aliases: [],
  region: 'hand_wrist',
  purpose: 'strength',
  condition: 'Weakness',
  leading: true,
  other_conditions: [],
  levels: [],
  positive_finding: 'Weaker',
  position: null,
  equipment: [],
  irritation: null,
  studies: 0,
  patients: 0,
  evidence: 'not_studied',
  status: 'published',
  findings: 0,
  sample: false,
  summary: null,
  warnings: [],
  ...more,
})

async function page(answer: (asked: Asked) => unknown, rights?: Right[]) {
  enter(rights)
  const asked = serve({
    'GET /regions': [{ region: 'hand_wrist', tests: 300 }],
    'GET /conditions': [
      { id: 'c', region: 'hand_wrist', name: 'Rare', setting: '', pre_test: null, tests: 0 },
      { id: 'd', region: 'hand_wrist', name: 'Weakness', setting: 'clinic', pre_test: 0.3, tests: 3 },
    ],
    'GET /tests': answer,
  })
  const { wrapper, router } = await mounted(CataloguePage)
  await flushPromises()
  const lists = () => asked.filter((one) => one.path.startsWith('/tests?')).map((one) => one.path)
  return { wrapper, router, lists }
}
const many = () =>
  new Response(JSON.stringify([row('Lift'), row('Press', { findings: 2, status: 'draft' })]), {
    headers: { 'Content-Type': 'application/json', 'X-Total-Count': '300' },
  })

describe('the list', () => {
  beforeEach(() => (document.body.innerHTML = ''))

  it('asks for its first rows, says how many there are, and shows all when told', async () => {
    const { wrapper, lists } = await page(many)
    expect(wrapper.get('h1').text()).toBe('Hand and wrist: 300 tests')
    expect(wrapper.text()).toContain('The first 2 of 300.')
    expect(lists().at(-1)).toContain('limit=100')
    expect(lists().at(-1)).toContain('sort=lr_positive')
    await wrapper.get('[data-test=show-all]').trigger('click')
    await flushPromises()
    expect(lists().at(-1)).not.toContain('limit')
  })

  it('says what is still being computed, test by test, and asks again until it is there', async () => {
    let said = '1/2'
    const rows = () =>
      new Response(
        JSON.stringify([
          row('Lift', {
            studies: 2,
            standing: said === '0/0' ? 'current' : 'computing',
            evidence: 'few_studies',
          }),
          row('Press', { standing: 'current' }),
        ]),
        { headers: { 'Content-Type': 'application/json', 'X-Total-Count': '2', 'X-Computing': said } },
      )
    const { wrapper } = await page(rows)
    expect(wrapper.get('[data-test=computing]').text()).toBe('Figures are being computed: 1 of 2 are done.')
    const rungs = () =>
      wrapper.findAll('[data-test=ladder-row]').map((it) => it.text().includes('being computed'))
    expect(rungs()).toEqual([true, false])
    said = '2/2'
    await eventually(() => expect(wrapper.get('[data-test=computing]').text()).toContain('2 of 2'))
    expect(rungs()).toEqual([true, false])
    said = '0/0'
    await eventually(() => expect(wrapper.find('[data-test=computing]').exists()).toBe(false))
    expect(rungs()).toEqual([false, false])
  })

  it('points out what the checks found to those who can mend it', async () => {
    const author = await page(many)
    expect(
      author.wrapper.findAll('[data-test=ladder-row]').map((it) => it.text().includes('2 warnings')),
    ).toEqual([false, true])
    document.body.innerHTML = ''
    const learner = await page(many, ['read'])
    expect(learner.wrapper.text()).not.toContain('things to look at')
    await learner.wrapper.get('[data-test=narrow]').trigger('click')
    expect(learner.wrapper.find('[data-test=filter-status]').exists()).toBe(false)
    expect(learner.wrapper.find('[data-test=filter-purpose]').exists()).toBe(true)
  })

  it('keeps filters in the address, drops nonsense, and offers a way out when nothing fits', async () => {
    const { wrapper, router, lists } = await page(({ path }) =>
      path.includes('purpose=laxity') ? [] : [row('Lift')],
    )
    await router.replace({ query: { purpose: 'laxity', status: 'nonsense' } })
    await flushPromises()
    await eventually(() => expect(lists().at(-1)).toContain('purpose=laxity'))
    await flushPromises()
    expect(lists().at(-1)).not.toContain('status')
    expect(wrapper.text()).toContain('No test of this region fits these filters.')
    const clear = wrapper.findAll('button').find((button) => button.text() === 'Clear search and filters')
    await clear?.trigger('click')
    await eventually(() => expect(router.currentRoute.value.query.purpose).toBeUndefined())
    await eventually(() => expect(wrapper.get('h1').text()).toBe('Hand and wrist: one test'))
  })

  it('leaves the order to the search when nobody chose one', async () => {
    const { router, lists } = await page(() => [row('Lift')])
    await router.replace({ query: { search: 'lift' } })
    await eventually(() => expect(lists().at(-1)).toContain('search=lift'))
    expect(lists().at(-1)).not.toContain('sort=')
    await router.replace({ query: { search: 'lift', sort: 'name' } })
    await eventually(() => expect(lists().at(-1)).toContain('sort=name'))
  })

  it('says what went wrong, and tries again when told', async () => {
    let broken = true
    const { wrapper } = await page(() => (broken ? problem(500, 'internal') : [row('Lift')]))
    expect(wrapper.text()).toContain('The list could not be loaded')
    broken = false
    await wrapper
      .findAll('button')
      .find((button) => button.text() === 'Try again')
      ?.trigger('click')
    await flushPromises()
    expect(wrapper.get('h1').text()).toBe('Hand and wrist: one test')
  })
})
