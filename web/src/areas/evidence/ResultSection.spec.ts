import { beforeEach, describe, expect, it } from 'vitest'

import type { ResultView } from '@/shared/api/types'
import { enter, eventually, mounted, problem, serve } from '@/shared/mount.setup'
import { undoBar } from '@/shared/undo'
import { result } from './results.setup'
import ResultSection from './ResultSection.vue'

const strict: ResultView = {
  ...result,
  id: 'q',
  version: 7,
  criterion: 'Much weaker',
  left_out: { code: 'same_people' },
}
const several: ResultView = {
  ...result,
  id: 'm',
  together: { tests: ['b', 'c'], rule: { at_least: 2 } },
  others: [
    { id: 'b', name: 'Thumb press' },
    { id: 'c', name: 'Pinch' },
  ],
  left_out: { code: 'together' },
}

async function section(rights: Parameters<typeof enter>[0], answers: Record<string, unknown> = {}) {
  enter(rights)
  const asked = serve({ 'GET /tests/a/results': [result, strict, several], ...answers })
  const { wrapper } = await mounted(ResultSection, { testId: 'a', pooled: null })
  await eventually(() => expect(wrapper.findAll('[data-test=result-row]')).toHaveLength(3))
  return { asked, wrapper, rows: wrapper.findAll('[data-test=result-row]').map((row) => row.text()) }
}

describe('the results of a sheet', () => {
  beforeEach(() => (document.body.innerHTML = ''))

  it('are found by whoever comes for one of them', async () => {
    enter(['read'])
    serve({ 'GET /tests/a/results': [result, strict] })
    const shown: string[] = []
    Element.prototype.scrollIntoView = function () {
      shown.push(this.id)
    }
    const { wrapper, router } = await mounted(ResultSection, { testId: 'a', pooled: null }, {}, {}, 'sheet')
    await router.push({ hash: '#result-q' })
    await eventually(() => expect(shown).toEqual(['result-q']))
    expect(wrapper.findAll('.asked').map((row) => row.attributes('id'))).toEqual(['result-q'])
  })

  it('say in what they differ from the sheet, and why one is not pooled', async () => {
    const { rows, wrapper } = await section(['read'])
    expect(rows[0]).not.toContain('Not pooled')
    expect(rows[1]).toMatch(
      /positive: Much weaker[\s\S]*Not pooled: another result of the same patients is\./,
    )
    expect(rows[2]).toContain('together with Thumb press, Pinch, positive when at least 2 of them are')
    expect(rows[2]).toContain('Not pooled: it is about several tests together.')
    expect(wrapper.findAll('[data-test=prefer-result], [data-test=edit-result]')).toHaveLength(0)
  })

  it('tell of people outside the table, and what the figures are with them', async () => {
    const told: ResultView = {
      ...strict,
      positive_unverified: 2,
      negative_unverified: 118,
      uninterpretable: { tests: 3, of: 173, results: 1 },
      verified: {
        sensitivity: { estimate: 0.2, logit_se: 0.3, interval: { estimate: 0.2, lower: 0.12, upper: 0.31 } },
        specificity: { estimate: 1, logit_se: null, interval: null },
        sensitivity_range: [0.09, 0.4],
        specificity_range: [0.917, 1],
      } as unknown as ResultView['verified'],
    }
    const none = { ...several, uninterpretable: { tests: 0, of: 50, results: 1 } }
    const { rows } = await section(['read'], { 'GET /tests/a/results': [result, told, none] })
    expect(rows[0]).not.toContain('corrected')
    expect(rows[1]).toMatch(/corrected 20\s%.*corrected 100\s%/s)
    expect(rows[1]).toContain('Reference standard not done: 2 with a positive test, 118 with a negative one.')
    expect(rows[1]).toMatch(/Range without assumptions: sensitivity 9–40\s%, specificity 91\.7–100\s%/)
    expect(rows[1]).toMatch(/Uninterpretable: 3 of \d+ tests/)
    expect(rows[2]).toContain('No uninterpretable tests.')
  })

  it('are chosen for the pool in the place of others, and back', async () => {
    const { asked, wrapper } = await section(['read', 'write_studies'], {
      'PUT /results/q': { ...strict, version: 8 },
    })
    expect(
      wrapper.findAll('[data-test=prefer-result]'),
      'only of the same people is one chosen',
    ).toHaveLength(1)
    await wrapper.get('[data-test=prefer-result]').trigger('click')
    await eventually(() => expect(undoBar.message).toContain('This result is now pooled'))
    await undoBar.action?.()
    const sent = asked.filter((one) => one.method === 'PUT')
    expect(sent.map((one) => one.headers.get('If-Match'))).toEqual(['"7"', '"8"'])
    expect(sent.map((one) => one.body)).toMatchObject([
      { result: { preferred: true, criterion: 'Much weaker', tp: 20 } },
      { result: { preferred: false, criterion: 'Much weaker', tp: 20 } },
    ])
    expect(sent[0]?.body).not.toHaveProperty('study')
  })

  it('are taken out and brought back, or it is said why not', async () => {
    let answer: unknown = { ...result, version: 4 }
    const { asked, wrapper } = await section(['read', 'write_studies'], {
      'DELETE /results/r': () => answer,
      'POST /results/r/restore': result,
    })
    await wrapper.get('[data-test=remove-result]').trigger('click')
    await eventually(() => expect(undoBar.message).toBe('Deleted: Sample report'))
    await undoBar.action?.()
    expect(asked.find((one) => one.path === '/results/r/restore')?.headers.get('If-Match')).toBe('"4"')
    answer = problem(412, 'changed_meanwhile')
    await wrapper.get('[data-test=remove-result]').trigger('click')
    await eventually(() => expect(undoBar.message).toContain('changed_meanwhile'))
  })
})
