import { flushPromises } from '@vue/test-utils'
import { beforeEach, describe, expect, it } from 'vitest'

import type { BoardRowView } from '@/shared/api/types'
import { enter, eventually, mounted, serve } from '@/shared/mount.setup'
import ExtractionsPage from './ExtractionsPage.vue'

const row = (id: string, more: Partial<BoardRowView> = {}): BoardRowView => ({
  id,
  result_id: null,
  test: { id: 'a', name: 'Thumb lift' },
  report: `Report ${id}`,
  about: 'Adults',
  progress: 'unread',
  appraised: false,
  sample: false,
  readers: [],
  ...more,
})

async function page(rows: BoardRowView[], query: Record<string, string> = {}, answers = {}) {
  enter(['read', 'read_drafts', 'write_studies'])
  const counts = { unread: 2, once: 1, twice: 0, settled: 1 }
  const asked = serve({
    'GET /regions': [{ region: 'neck', tests: 3 }],
    'GET /conditions': [],
    'GET /extractions': { rows, counts, appraised: 1, found: rows.length },
    ...answers,
  })
  const { wrapper, router } = await mounted(ExtractionsPage, {}, {}, query)
  await flushPromises()
  return { wrapper, router, asked }
}

describe('the board of double extractions', () => {
  beforeEach(() => (document.body.innerHTML = ''))

  it('asks for what the address says, and puts what is chosen there', async () => {
    const query = { progress: 'once', search: 'thumb', next: 'true', appraised: 'false', page: '2' }
    const { wrapper, router, asked } = await page([row('1')], query)
    const list = asked.findLast((one) => one.path.startsWith('/extractions?'))
    expect(list?.path).toBe(
      '/extractions?region=neck&search=thumb&progress=once&appraised=false&next=true&offset=50&limit=50',
    )
    expect(wrapper.get('[data-test=progress-once]').attributes('aria-pressed')).toBe('true')
    await wrapper.get('[data-test=progress-once]').trigger('click')
    await eventually(() =>
      expect(router.currentRoute.value.query).toEqual({ search: 'thumb', next: 'true', appraised: 'false' }),
    )
  })

  it('says to each person what is to be done next', async () => {
    const you = { name: 'P', you: true, done: true }
    const other = { name: 'B. Reader', you: false, done: false }
    const { wrapper, router } = await page(
      [
        row('1'),
        row('2', { readers: [{ ...you, done: false }] }),
        row('3', { progress: 'once', readers: [you] }),
        row('4', { readers: [other, other] }),
        row('5', { progress: 'twice', readers: [you, you] }),
        row('6', { progress: 'settled', readers: [you, you], appraised: true }),
        row('7', {
          id: null,
          result_id: 'g',
          progress: 'once',
          readers: [{ name: null, you: false, done: true }],
        }),
      ],
      {},
      { 'POST /extractions': { id: 'new', mine: null } },
    )
    const next = wrapper.findAll('[data-test=extraction-row]').map((it) => {
      const button = it.find('[data-test=extraction-next]')
      return button.exists() ? button.text() : ''
    })
    expect(next).toEqual([
      'Extract',
      'Continue',
      'View yours',
      '',
      'Adjudicate',
      'Adjudication',
      'Extract it again',
    ])
    expect(wrapper.text()).toContain('B. Reader (in progress)')
    expect(wrapper.text()).toContain('from a file')
    await wrapper.findAll('[data-test=extraction-next]').at(-1)?.trigger('click')
    await eventually(() => expect(router.currentRoute.value.params.extraction).toBe('new'))
  })

  it('tells how well readers agree, and where kappa says nothing', async () => {
    const share = { estimate: 0.9, lower: 0.8, upper: 0.95 }
    const field = (name: string, kind: string, choices: unknown) => ({
      field: name,
      kind,
      n: 10,
      same: 9,
      share,
      choices,
    })
    const kappa = { kappa: { value: { estimate: 0.62, lower: 0.4, upper: 0.84 } } }
    const { wrapper } = await page(
      [row('1')],
      {},
      {
        'GET /extractions/agreement': {
          n: 10,
          compared: 60,
          same: 54,
          share,
          fields: [
            field('study.setup.design', 'choice', kappa),
            field('study.setup.course', 'choice', null),
            field('result.tp', 'number', null),
          ],
        },
      },
    )
    const details = wrapper.get<HTMLDetailsElement>('[data-test=reader-agreement]')
    details.element.open = true
    await details.trigger('toggle')
    await eventually(() => expect(details.text()).toContain('54 of 60'))
    expect(details.text()).toContain('0.62')
    expect(details.text()).toContain('always the same answer')
    const empty = await page([], {})
    expect(empty.wrapper.text()).toContain('The list is empty')
  })
})
