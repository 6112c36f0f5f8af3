import { flushPromises } from '@vue/test-utils'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'

import type { ResultBody } from '@/shared/api/types'
import { enter, mounted, problem, serve } from '@/shared/mount.setup'
import { newResult } from './resultFields'
import ResultEffect from './ResultEffect.vue'
import ResultTrace from './ResultTrace.vue'
import { result } from './results.setup'

const share = (estimate: number) => ({ estimate, lower: 0.5, upper: 0.95 })
const worth = (shift: string, at_least = shift) => ({ shift, at_least, at_most: 'large' })
const pooled = (sensitivity: number, lr: number | null, k: number) => ({
  pooled: {
    k,
    sensitivity: share(sensitivity),
    specificity: share(0.8),
    lr_positive: lr && { estimate: lr, lower: 2, upper: 6 },
    lr_negative: { estimate: 0.3, lower: 0.2, upper: 0.5 },
  },
})
const body = (tp: number | null): ResultBody => ({ result: { ...newResult(), tp, fn: 5 } }) as ResultBody

describe('what a correction changes', () => {
  beforeEach(() => vi.useFakeTimers({ toFake: ['setTimeout', 'clearTimeout'] }))
  afterEach(() => vi.useRealTimers())

  it('is told once something is typed, only where it shows, and never from a refused text', async () => {
    enter()
    const answers: unknown[] = [
      {
        before: pooled(0.8, 4.1, 3),
        after: pooled(0.7, 3.2, 3),
        positive: { before: worth('small'), after: worth('small') },
        negative: { before: worth('moderate', 'small'), after: worth('small', 'reversed') },
        stale: [{ id: 's', title: 'Wrist module' }],
      },
      {
        before: pooled(0.8, 4.1, 3),
        after: pooled(0.8001, 4.1, 3),
        positive: { before: worth('small'), after: worth('small') },
        negative: { before: null, after: null },
      },
      {
        before: { pooled: null },
        after: pooled(0.8, null, 1),
        positive: { before: null, after: null },
        negative: { before: null, after: worth('small') },
      },
      problem(422, 'fields_invalid'),
    ]
    const asked = serve({ 'POST /tests/a/results/effect': () => answers.shift() })
    const { wrapper } = await mounted(ResultEffect, { testId: 'a', correcting: 'r', body: body(20) })
    const type = async (tp: number | null) => {
      await wrapper.setProps({ body: body(tp) })
      await vi.advanceTimersByTimeAsync(200)
      await flushPromises()
      return wrapper.find('[data-test=effect]').exists() ? wrapper.get('[data-test=effect]').text() : ''
    }
    await vi.advanceTimersByTimeAsync(200)
    expect(asked.filter((one) => one.method === 'POST')).toHaveLength(0)
    const changed = await type(18)
    expect(asked.at(-1)?.path).toBe('/tests/a/results/effect?correcting=r')
    expect(changed).toContain('LR+ 4.1 → 3.2')
    expect(changed).toContain('Sensitivity 80')
    expect(changed).not.toContain('Specificity')
    expect(changed).toContain('the frozen pool “Wrist module” becomes stale')
    expect(changed).toContain('Shift by a positive result: small, as before')
    expect(changed).toContain(
      'Shift by a negative result: moderate (at worst small) → small (at worst the other way)',
    )
    expect(await type(19)).toBe('On the sheetnothing changes')
    const first = await type(21)
    expect(first).toContain('Studies pooled 0 → 1')
    expect(first).toContain('LR+ – → not estimable')
    expect(first).toContain('Shift by a negative result: not estimable → small')
    expect(first).not.toContain('a positive result')
    expect(await type(-1)).toBe('')
    expect(await type(null), 'nothing to ask').toBe('')
  })
})

describe('where a result comes from', () => {
  const said = async (trace: unknown, page = 'Table 2') => {
    enter()
    serve({ 'GET /regions': [], 'GET /conditions': [] })
    const { wrapper } = await mounted(ResultTrace, { result: { ...result, page, trace } })
    return wrapper
  }
  const entered = { entered_by: 'A. Author', entered_at: '2026-03-01T10:00:00Z', double: null }
  const double = {
    id: 'x',
    readers: ['A', 'B'],
    settled_by: 'C. Settler',
    settled_at: '2026-03-02T10:00:00Z',
  }

  it('names who entered or settled it, and leads to what both read', async () => {
    expect((await said(entered)).text()).toBe('Table 2 · entered by A. Author, 1 March 2026')
    expect((await said({ ...entered, entered_by: null }, '')).text()).toBe('imported, 1 March 2026')
    const settled = await said({ ...entered, double })
    expect(settled.text()).toBe('Table 2 · two extractors, adjudicated by C. Settler')
    expect(settled.get('a').attributes('href')).toContain('/extraction/x')
    const open = await said({ ...entered, double: { ...double, settled_at: null } })
    expect(open.text()).toContain('being extracted a second time')
  })

  it('tells learners the page and nobody’s name', async () => {
    expect((await said(null)).text()).toBe('Table 2')
    expect((await said(null, '')).text()).toBe('')
  })
})
