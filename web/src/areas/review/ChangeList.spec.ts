import { flushPromises } from '@vue/test-utils'
import { beforeEach, describe, expect, it } from 'vitest'

import VocabularyHistoryPage from '@/areas/vocabulary/VocabularyHistoryPage.vue'
import { enter, mounted, problem, serve } from '@/shared/mount.setup'
import HistoryPage from './HistoryPage.vue'

const result = (fp: number | null) => ({
  criterion: 'Weaker',
  reference_standard: '',
  counts: { tp: 20, fp, fn: 5, tn: 21 },
})
const change = (
  kind: string,
  record_id: string,
  version: number,
  action: string,
  content: unknown,
  before: unknown,
) => ({
  kind,
  record_id,
  version,
  action,
  content,
  before,
  study: kind === 'result' ? 'Sample report' : null,
  by: 'M. Keller',
  at: '2026-11-25T09:00:00Z',
})
const changes = [
  change('result', 'gone', 2, 'deleted', result(1), result(1)),
  change('result', 's', 2, 'edited', result(3), result(0)),
  change('result', 's', 1, 'created', result(0), null),
  change('result', 'gone', 1, 'created', result(1), null),
]

async function results(refused?: Response) {
  enter(['read', 'read_drafts', 'write_sheets', 'write_studies'])
  const asked = serve({
    'GET /tests/a/history': [],
    'GET /tests/a/results/history': changes,
    'POST /results/gone/restore': result(1),
    'PUT /results/s': () => refused ?? result(0),
  })
  const { wrapper } = await mounted(HistoryPage, { id: 'a' })
  await flushPromises()
  return { wrapper, asked, entries: wrapper.findAll('[data-test=change]') }
}

describe('the list of changes', () => {
  beforeEach(() => (document.body.innerHTML = ''))

  it('shows what stood in the place of what, and of a first version all it says', async () => {
    const { entries } = await results()
    expect(entries).toHaveLength(4)
    expect(entries[1]?.text()).toMatch(/Changed[\s\S]*M\. Keller[\s\S]*False positives\s*0\s*→\s*3/)
    expect(entries[1]?.text()).not.toContain('True positives')
    expect(entries[2]?.text()).toMatch(/True positives\s*20[\s\S]*False positives\s*0/)
  })

  it('brings back what was deleted, and an earlier text at the version that stands', async () => {
    const { entries, asked } = await results()
    // A deleted result comes back first; its earlier texts are offered after that.
    const offered = entries.map((entry) => entry.find('[data-test=bring-back]').exists())
    expect(offered).toEqual([true, false, true, false])
    await entries[0]?.get('[data-test=bring-back]').trigger('click')
    await flushPromises()
    const restored = asked.find((one) => one.path === '/results/gone/restore')
    expect(restored?.headers.get('If-Match')).toBe('"2"')
    await entries[2]?.get('[data-test=bring-back]').trigger('click')
    await flushPromises()
    const put = asked.find((one) => one.method === 'PUT')
    expect([put?.path, put?.headers.get('If-Match')]).toEqual(['/results/s', '"2"'])
    expect(put?.body).toMatchObject({ result: { criterion: 'Weaker', fp: 0 } })
  })

  it('words appraisals and who was examined, which come back with their results', async () => {
    enter(['read', 'read_drafts', 'write_studies'])
    const judged = (risk: string) => ({
      domains: { index_test: { answers: { test_read_blind: 'no' }, risk, reason: 'After the scan.' } },
    })
    const people = { reference: 'Sample report', population: 'Adults', setup: { people: 75 }, note: '' }
    const asked = serve({
      'GET /tests/a/history': [],
      'GET /tests/a/results/history': [
        change('appraisal', 'p', 2, 'edited', judged('high'), judged('low')),
        change('study', 's', 3, 'deleted', people, people),
        change('study', 't', 2, 'edited', people, { ...people, population: 'Children' }),
        change('study', 't', 1, 'created', { ...people, population: 'Children' }, null),
        change('appraisal', 'p', 1, 'created', judged('low'), null),
      ],
      'PUT /studies/t': {},
      'PUT /studies/s/appraisals/accuracy': {},
    })
    const { wrapper } = await mounted(HistoryPage, { id: 'a' })
    await flushPromises()
    const entries = wrapper.findAll('[data-test=change]')
    expect(entries[0]?.text()).toMatch(/low risk of bias\s*After the scan\.\s*→[\s\S]*high risk of bias/)
    expect(entries[2]?.text()).toMatch(/Population\s*Children\s*→\s*Adults/)
    const offered = entries.map((entry) => entry.find('[data-test=bring-back]').exists())
    expect(offered, 'a study comes back with its result').toEqual([false, false, false, true, false])
    await entries[3]?.get('[data-test=bring-back]').trigger('click')
    await flushPromises()
    expect(asked.find((one) => one.method === 'PUT')?.body).toMatchObject({ population: 'Children' })
  })

  it('tells and brings back agreement results too', async () => {
    enter(['read', 'read_drafts', 'write_sheets', 'write_studies'])
    const said = (rows: string[][], more = {}) => ({
      reference: 'Sample agreement',
      between: 'examiners',
      finding: 'Weaker',
      figures: { kind: 'table', rows, weights: 'none' },
      ...more,
    })
    const cells = (first: string) => [
      [first, '9'],
      ['6', '45'],
    ]
    const printed = {
      figures: { kind: 'reported', coefficient: 'icc', value: 0.86, lower: 0.75, upper: 0.92 },
    }
    const asked = serve({
      'GET /tests/a/history': [],
      'GET /tests/a/results/history': [
        change('agreement', 'gone', 2, 'deleted', said([], printed), said([], printed)),
        change('agreement', 'g', 2, 'edited', said(cells('41')), said(cells('40'))),
        change('agreement', 'g', 1, 'created', said(cells('40')), null),
        change('agreement', 'gone', 1, 'created', said([], printed), null),
      ],
      'POST /agreements/gone/restore': {},
      'PUT /agreements/g': {},
    })
    const { wrapper } = await mounted(HistoryPage, { id: 'a' })
    await flushPromises()
    const entries = wrapper.findAll('[data-test=change]')
    expect(entries[1]?.text()).toMatch(/A cross-table of two raters\s*40\s9\s6\s45\s*→\s*41\s9\s6\s45/)
    expect(entries[3]?.text()).toMatch(/Coefficient\s*Intraclass correlation\s*Value\s*0\.86/)
    await entries[0]?.get('[data-test=bring-back]').trigger('click')
    await flushPromises()
    await entries[2]?.get('[data-test=bring-back]').trigger('click')
    await flushPromises()
    const sent = asked.filter((one) => one.method !== 'GET')
    expect(sent.map((one) => [one.method, one.path, one.headers.get('If-Match')])).toEqual([
      ['POST', '/agreements/gone/restore', '"2"'],
      ['PUT', '/agreements/g', '"2"'],
    ])
    expect(sent[1]?.body).toMatchObject({ agreement: { figures: { rows: cells('40') } } })
  })

  it('says why a text could not be brought back', async () => {
    const { wrapper, entries } = await results(problem(412, 'changed_meanwhile'))
    await entries[2]?.get('[data-test=bring-back]').trigger('click')
    await flushPromises()
    expect(wrapper.get('[role=alert]').text()).toContain('changed_meanwhile')
  })

  it('words structures and conditions, takes a change back, and says when nobody changed anything', async () => {
    enter(['read', 'read_drafts', 'write_sheets'])
    const condition = { region: 'hip', name: 'Torn labrum', setting: 'Clinic', pre_test: 0.2 }
    const muscle = {
      region: 'hip',
      name: 'Hip flexor',
      other_names: [],
      tissue: 'muscle',
      retired: false,
      actions: [{ joint: 'hip', motion: 'flexion' }],
    }
    const list: unknown[] = [
      change('condition', 'c', 2, 'edited', { ...condition, pre_test: 0.3 }, condition),
      change('structure', 'm', 2, 'edited', { ...muscle, retired: true }, muscle),
    ]
    const asked = serve({ 'GET /vocabulary/history': () => list, 'PUT /conditions/c': condition })
    const { wrapper } = await mounted(VocabularyHistoryPage)
    await flushPromises()
    const entries = wrapper.findAll('[data-test=change]').map((entry) => entry.text())
    expect(entries[0]).toMatch(/Torn labrum[\s\S]*Usual pre-test probability\s*20\s%\s*→\s*30\s%/)
    expect(entries[1]).toMatch(/Hip flexor[\s\S]*Available to authors\s*yes\s*→\s*archived/)
    // What it said before is not listed by itself: the change is taken back.
    await wrapper.get('[data-test=bring-back]').trigger('click')
    await flushPromises()
    const put = asked.find((one) => one.method === 'PUT')
    expect([put?.headers.get('If-Match'), put?.body]).toEqual(['"2"', condition])
    list.length = 0
    document.body.innerHTML = ''
    const empty = await mounted(VocabularyHistoryPage)
    await flushPromises()
    expect(empty.wrapper.text()).toContain('No changes yet.')
  })
})
