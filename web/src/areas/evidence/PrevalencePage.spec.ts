import { beforeEach, describe, expect, it } from 'vitest'

import type { PooledPrevalence, PrevalenceReport } from '@/shared/api/types'
import { enter, eventually, mounted, plain, problem, serve } from '@/shared/mount.setup'
import PrevalencePage from './PrevalencePage.vue'

const report = (source: string, symptoms: 'with' | 'without', x: number, n: number): PrevalenceReport => ({
  source,
  symptoms,
  people: n,
  with_condition: x,
  age_from: 30,
  age_to: null,
  setting: 'community',
  activity: null,
  method: 'Imaging',
  sample: true,
})
const share = (estimate: number) => ({ estimate, lower: estimate / 2, upper: estimate * 1.2 })
const pooled: PooledPrevalence = {
  sources: 2,
  apart: 1,
  shares: [share(0.6), null],
  sample: true,
  people_with: 50,
  people_without: 1200,
  with_symptoms: share(0.6),
  without_symptoms: share(0.15),
  ratio: { estimate: 4, lower: 2, upper: 8 },
  by_chance: share(0.25),
  incidental: 'possible',
  converged: true,
}

async function page(answers: Record<string, unknown> = {}, query = {}) {
  enter(['read', 'write_sheets'])
  const condition = {
    id: 'c',
    version: 3,
    region: 'neck',
    name: 'Root',
    setting: 'clinic',
    pre_test: 0.25,
    tests: 1,
    prevalence: [report('A 2001', 'with', 30, 50), report('B 2002', 'without', 180, 1200)],
  }
  const asked = serve({
    'GET /regions': [{ region: 'neck', tests: 1 }],
    'GET /conditions': [condition],
    'GET /conditions/c/prevalence': pooled,
    'PUT /conditions/c': { ...condition, version: 4 },
    ...answers,
  })
  const { wrapper, router } = await mounted(PrevalencePage, { id: 'c' }, {}, query)
  await eventually(() => expect(wrapper.findAll('[data-test=prevalence-report]')).toHaveLength(2))
  const sent = () => asked.filter((one) => one.method === 'PUT')
  return { wrapper, router, asked, sent }
}

describe('the prevalence of a condition', () => {
  beforeEach(() => (document.body.innerHTML = ''))

  it('says how common it is with and without symptoms, and what that makes of a finding', async () => {
    const { wrapper, asked } = await page({}, { age: '45', setting: 'community', activity: 'nonsense' })
    await eventually(() => expect(wrapper.find('[data-test=by-chance]').exists()).toBe(true))
    const said = plain(wrapper.text())
    expect(said).toContain('2 sources. 1 report is about other people and left out.')
    expect(plain(wrapper.get('[data-test=prevalence-without]').text())).toContain('15 %')
    expect(said).toContain('4.0 (2.0–8.0) times as common')
    expect(plain(wrapper.get('[data-test=by-chance]').text())).toMatch(
      /25 % \(.*\) of true positives are incidental/,
    )
    expect(wrapper.findAll('[data-test=prevalence-report]')[1]!.text()).toContain(
      'Without symptoms · age 30 to … · work or screening',
    )
    const counts = wrapper.findAll('[data-test=prevalence-report]').map((row) => plain(row.text()))
    expect(counts[0]).toContain('30 of 50 (60 %, 30–72 %)')
    expect(counts[1], 'left out by the filter').toMatch(/180 of 1\s?200 \(other people\)/)
    const query = asked.find((one) => one.path.startsWith('/conditions/c/prevalence'))!.path
    expect(query, 'what nobody knows is not asked').toBe('/conditions/c/prevalence?age=45&setting=community')
  })

  it('deletes a report with the others kept, and brings it back', async () => {
    const { wrapper, sent } = await page()
    const buttons = wrapper.findAll('[data-test=prevalence-report]')[0]!.findAll('button')
    await buttons[1]!.trigger('click')
    await eventually(() => expect(sent()).toHaveLength(1))
    const { headers, body } = sent()[0]!
    expect(headers.get('If-Match')).toBe('"3"')
    expect(body).toMatchObject({ name: 'Root', pre_test: 0.25, prevalence: [{ source: 'B 2002' }] })
    expect((body as { prevalence: unknown[] }).prevalence).toHaveLength(1)
    const { undoBar } = await import('@/shared/undo')
    await undoBar.action?.()
    expect(sent()[1]!.headers.get('If-Match')).toBe('"4"')
    expect((sent()[1]!.body as { prevalence: unknown[] }).prevalence).toHaveLength(2)
  })

  it('names what is refused beside its field', async () => {
    const refused = {
      field: 'prevalence[2].people',
      code: 'missing',
      message: 'No number.',
      remedy: 'Say.',
      value: '',
    }
    const { wrapper, sent } = await page({
      'PUT /conditions/c': () => problem(422, 'invalid', [refused as never]),
    })
    await wrapper.get('[data-test=add-prevalence]').trigger('click')
    const dialog = () => document.querySelector('[data-test=prevalence-dialog]')
    await eventually(() => expect(dialog()).not.toBeNull())
    dialog()!.querySelector('form')!.dispatchEvent(new Event('submit'))
    await eventually(() =>
      expect(dialog()!.querySelector('[data-test=prevalence-people]')!.textContent).toContain(
        'No number. Say.',
      ),
    )
    expect((sent()[0]!.body as { prevalence: unknown[] }).prevalence).toHaveLength(3)
  })
})
