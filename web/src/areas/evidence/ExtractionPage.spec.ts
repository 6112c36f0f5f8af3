import { flushPromises } from '@vue/test-utils'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'

import { blankSheet } from '@/areas/catalogue/sheetDraft'
import type { DoubleExtractionView, FieldPair } from '@/shared/api/types'
import { enter, mounted, problem, serve } from '@/shared/mount.setup'
import ExtractionPage from './ExtractionPage.vue'
import { newResult } from './resultFields'

const content = (tp: number, setup = {}, page = '') => ({
  study: { reference: 'Sample report', population: 'Adults', setup, note: '' },
  result: { ...newResult(), tp, fp: 1, fn: 5, tn: 24, page, note: `note ${tp}` },
})
const view = (more: Partial<DoubleExtractionView> = {}) => ({
  id: 'x',
  test: { id: 'a', name: 'Thumb lift' },
  reference_id: 'r',
  report: 'Maddern 2016',
  reference: 'Maddern. Lifting thumbs. 2016.',
  asked: 'All people',
  sample: false,
  progress: 'unread',
  readers: [],
  mine: null,
  compared: null,
  settled: null,
  result_known: false,
  result: null,
  ...more,
})
const pair = (field: string, kind: FieldPair['kind'], first: unknown, second: unknown) => ({
  field,
  kind,
  first,
  second,
  same: first === second,
})

async function page(stored: unknown, answers: Record<string, unknown> = {}) {
  enter(['read', 'read_drafts', 'write_studies'])
  const asked = serve({
    'GET /regions': [],
    'GET /conditions': [],
    'GET /tests': [],
    'GET /tests/a': { ...blankSheet('hand_wrist', 'Weakness'), id: 'a', variants: [] },
    'GET /extractions/x': stored,
    ...answers,
  })
  const { wrapper, router } = await mounted(ExtractionPage, { extraction: 'x' })
  const wait = async (milliseconds: number) => {
    await vi.advanceTimersByTimeAsync(milliseconds)
    await flushPromises()
  }
  await wait(1)
  const sent = (method: string) => asked.filter((one) => one.method === method)
  return { wrapper, router, wait, sent }
}

describe('a double extraction', () => {
  beforeEach(() => {
    document.body.innerHTML = ''
    vi.useFakeTimers({ toFake: ['setTimeout', 'clearTimeout', 'setInterval', 'clearInterval', 'Date'] })
  })
  afterEach(() => vi.useRealTimers())

  it('keeps what is read while it is typed, and hands it in when it is right', async () => {
    const refused = {
      field: 'result.page',
      code: 'too_long' as const,
      value: '',
      message: 'This is too long.',
      remedy: 'Shorten it.',
    }
    const answers: unknown[] = [
      view({ mine: { version: 1, handed_in_at: null, content: content(20) } as never }),
      problem(422, 'fields_invalid', [refused]),
      view({ progress: 'once' }),
    ]
    const { wrapper, router, wait, sent } = await page(view(), {
      'PUT /extractions/x/mine': () => answers.shift(),
    })
    expect(wrapper.text()).toContain('You see the other extraction only after both of you have submitted')
    expect(wrapper.find('[data-test=reference]').exists(), 'the report is given').toBe(false)
    await wrapper.get('[data-test=page] input').setValue('Table 2')
    await wait(900)
    expect(sent('PUT')).toHaveLength(0)
    await wait(300)
    const [kept] = sent('PUT')
    expect(kept?.headers.get('If-Match')).toBe('"0"')
    expect(kept?.body).toMatchObject({ hand_in: false, content: { result: { page: 'Table 2' } } })
    expect(wrapper.get('[data-test=kept]').text()).toContain('Draft kept')

    const form = wrapper.get('form:has([data-test=hand-in])')
    await form.trigger('submit')
    await wait(1)
    expect(wrapper.text()).toContain('This is too long. Shorten it.')
    expect(sent('PUT')[1]?.headers.get('If-Match'), 'from where the text was kept').toBe('"1"')
    await form.trigger('submit')
    await wait(1)
    expect(sent('PUT')[2]?.body).toMatchObject({ hand_in: true })
    expect(router.currentRoute.value.name).toBe('extractions')
  })

  it('shows nothing of the other reader, and has no place for a third', async () => {
    const other = { name: 'B. Reader', you: false, done: true }
    const mine = { version: 2, handed_in_at: '2026-03-01T10:00:00Z', content: content(20) } as never
    const waiting = await page(view({ progress: 'once', readers: [{ ...other, you: true }], mine }), {
      'PUT /extractions/x/mine': view({
        mine: { version: 3, handed_in_at: null, content: content(20) } as never,
      }),
    })
    expect(waiting.wrapper.text()).toContain('Your extraction is submitted')
    await waiting.wrapper.get('[data-test=take-back]').trigger('click')
    await waiting.wait(1)
    expect(waiting.sent('PUT')[0]?.body).toMatchObject({ hand_in: false, content: { result: { tp: 20 } } })
    waiting.wrapper.unmount()
    const taken = await page(view({ readers: [other, { ...other, done: false }] }))
    expect(taken.wrapper.text()).toContain('Two people are already extracting this')
    expect(taken.wrapper.find('form').exists()).toBe(false)
  })

  it('settles only when every number and choice is decided, with its reason', async () => {
    const fields = [
      pair('study.population', 'words', 'Adults', 'adults in clinics'),
      pair('study.setup.design', 'choice', 'one_group', null),
      pair('result.tp', 'number', 20, 18),
      pair('result.tn', 'number', 24, 24),
      pair('result.page', 'words', null, 'Table 2'),
      pair('result.unit', 'choice', null, null),
    ]
    const compared = {
      first: content(20, { design: 'one_group' }),
      second: content(18, {}, 'Table 2'),
      fields,
      others: [],
    } as never
    const result = { id: 'g', version: 4, study_id: 's', study_version: 2 }
    const twice = view({ progress: 'twice', compared, result, result_known: true })
    const decisions = [{ ...pair('result.tp', 'number', 20, 18), settled: 19, reason: 'Table 2' }]
    const settled = view({
      compared,
      progress: 'settled',
      settled: { by: 'C. Settler', at: '2026-03-01T10:00:00Z', decisions } as never,
    })
    const { wrapper, wait, sent } = await page(twice, { 'POST /extractions/x/settlement': settled })
    expect(wrapper.get('[data-test=same-of]').text()).toContain('1 of 5')
    expect(wrapper.find('[data-test="settle-result.tn"]').exists(), 'both agree').toBe(false)
    const row = (field: string) => wrapper.get(`[data-test="settle-${field}"]`)
    expect(row('study.setup.design').text()).toContain('not reported')
    await wrapper.get('form').trigger('submit')
    await wait(1)
    expect(sent('POST')).toHaveLength(0)
    expect(wrapper.get('[data-test=open-differences]').text()).toBe('2 differences are open.')
    expect(row('result.tp').text()).toContain('Choose the final value.')

    await row('study.setup.design').get('[data-test=take-first]').trigger('change')
    await row('study.setup.design').get('[data-test=reason] input').setValue('Methods')
    await row('result.tp').get('[data-test=take-own]').trigger('click')
    await row('result.tp').get('[data-test=own] input').setValue('19')
    await row('result.tp').get('[data-test=reason] input').setValue('Table 2')
    await wait(1)
    expect(wrapper.get('[data-test=open-differences]').text()).toBe('All differences are adjudicated.')
    await wrapper.get('form').trigger('submit')
    await wait(1)
    expect(sent('POST')[0]?.body).toMatchObject({
      study_id: 's',
      study_version: 2,
      result_version: 4,
      reasons: { 'study.setup.design': 'Methods', 'result.tp': 'Table 2' },
      settled: {
        study: { population: 'Adults', setup: { design: 'one_group' } },
        result: { tp: 19, tn: 24, page: 'Table 2', unit: null, note: 'note 20\nnote 18' },
      },
    })
    wrapper.unmount()
    const table = (await page(settled)).wrapper.get('[data-test=decisions]').text()
    expect(table).toContain('Adjudicated by C. Settler')
    expect(table).toContain('True positives')
    expect(table).toContain('19')
  })
})
