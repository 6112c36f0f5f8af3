import { flushPromises } from '@vue/test-utils'
import { beforeEach, describe, expect, it } from 'vitest'

import { enter, eventually, mounted, serve } from '@/shared/mount.setup'
import type { ResultView, TestRow } from '@/shared/api/types'
import { pooled } from './pool.setup'
import ReferencePanel from './ReferencePanel.vue'

type Emit = (event: string, value: unknown) => void
const interval = (lower: number, estimate: number, upper: number) => ({ lower, estimate, upper })
const tests = [
  {
    id: 'imaging',
    name: 'Imaging',
    summary: { sensitivity: interval(0.854, 0.91, 0.95), specificity: interval(0.9, 0.96, 0.985) },
  },
  {
    id: 'a',
    name: 'Itself',
    summary: { sensitivity: interval(0.5, 0.6, 0.7), specificity: interval(0.5, 0.6, 0.7) },
  },
] as unknown as TestRow[]
const results = ['r1', 'r2'].map((id) => ({
  id,
  study: { reference: `Report ${id}` },
  accuracy: { sensitivity: interval(0.5, 0.63, 0.75), specificity: interval(0.8, 0.9, 0.95) },
})) as unknown as ResultView[]
const input = { tests: ['a'], condition: null, by: 'setting' as const, model: 'auto' as const }
const likely = {
  prevalence: 0.4,
  sensitivity: 0.85,
  specificity: 0.9,
  lr_positive: 8.5,
  lr_negative: 0.17,
  cells: null,
  any_dependence: { sensitivity: [0.7, 0.9], specificity: [0.75, 0.95] },
  flags: [] as string[],
}
const answer = {
  prevalence: 0.4,
  not_pooled: null,
  corrected: {
    likely,
    sensitivity: [0.82, 0.88],
    specificity: null,
    lr_positive: null,
    lr_negative: [0.1, 0.2],
    flags: ['spec_inadmissible'],
  },
}

async function panel(query: Record<string, string>, said: unknown = answer) {
  enter(['read'])
  const asked = serve({ 'GET /regions': [], 'GET /conditions': [], 'POST /pools/reference': () => said })
  const { wrapper, router } = await mounted(ReferencePanel, { input, pooled, results, tests }, {}, query)
  await flushPromises()
  const sent = () => asked.filter((one) => one.path === '/pools/reference')
  return { wrapper, router, sent }
}

describe('a reference standard that errs', () => {
  beforeEach(() => (document.body.innerHTML = ''))

  it('is asked about what the address says, and shows what is corrected, bounded and impossible', async () => {
    const { wrapper, sent } = await panel({
      reference_sensitivity: '85-90-95',
      reference_specificity: '-98-',
    })
    await eventually(() => expect(wrapper.find('[data-test=reference-table]').exists()).toBe(true))
    expect(sent()[0]?.body).toEqual({
      pool: { ...input, by: null },
      reference: {
        sensitivity: { lower: 0.85, estimate: 0.9, upper: 0.95 },
        specificity: { lower: 0.98, estimate: 0.98, upper: 0.98 },
      },
    })
    const table = wrapper.get('[data-test=reference-table]').text()
    expect(table).toMatch(/Sensitivity\s*80\s%\s*85\s%\s*82–88\s%\s*70–90\s%/)
    expect(table).toMatch(/LR\+\s*4\.0\s*8\.5\s*–/)
    expect(wrapper.get('[data-test=reference-flags]').text()).toContain('At an end of the range: specificity')
    expect(wrapper.find('[data-test=reference-shift] .shift').exists()).toBe(true)
    const never = await panel(
      { reference_sensitivity: '-60-', reference_specificity: '-60-' },
      {
        ...answer,
        corrected: {
          ...answer.corrected,
          likely: { ...likely, sensitivity: 1.2, flags: ['sens_inadmissible'] },
        },
      },
    )
    await eventually(() =>
      expect(never.wrapper.get('[data-test=reference-table]').text()).toContain('impossible'),
    )
    expect(never.wrapper.find('[data-test=reference-shift] .shift').exists(), 'no arrow to nowhere').toBe(
      false,
    )
  })

  it('takes its errors from a test on record, and corrects one result', async () => {
    const { wrapper, router, sent } = await panel({ reference_of: 'r2' })
    expect(sent()).toHaveLength(0)
    const take = wrapper.getComponent('[data-test=reference-take]') as unknown as { vm: { $emit: Emit } }
    take.vm.$emit('update:modelValue', 'imaging')
    await eventually(() =>
      expect(router.currentRoute.value.query).toMatchObject({
        reference_sensitivity: '85.4-91-95',
        reference_specificity: '90-96-98.5',
      }),
    )
    await eventually(() => expect(wrapper.find('[data-test=reference-table]').exists()).toBe(true))
    expect(sent().at(-1)?.body).toMatchObject({ result: 'r2', reference: { sensitivity: { upper: 0.95 } } })
    expect(wrapper.get('[data-test=reference-table]').text()).toMatch(/As reported.*Sensitivity\s*63\s%/s)
  })

  it('asks nothing of what is no share or out of order, and says so at the field', async () => {
    const { wrapper, router, sent } = await panel({})
    expect(sent()).toHaveLength(0)
    const field = (name: string) => wrapper.get<HTMLInputElement>(`[data-test=reference-${name}] input`)
    await field('specificity-estimate').setValue('98')
    await field('specificity-estimate').trigger('change')
    await eventually(() => expect(router.currentRoute.value.query.reference_specificity).toBe('-98-'))
    await field('sensitivity-estimate').setValue('150')
    await field('sensitivity-estimate').trigger('change')
    await eventually(() => expect(wrapper.text()).toContain('A number from 0 to 100'))
    await field('sensitivity-estimate').setValue('80')
    await field('sensitivity-estimate').trigger('change')
    await field('sensitivity-lower').setValue('90')
    await field('sensitivity-lower').trigger('change')
    await eventually(() => expect(wrapper.text()).toContain('in this order'))
    await flushPromises()
    const last = sent().at(-1)?.body as { reference: { sensitivity: { lower: number } } } | undefined
    expect(last?.reference.sensitivity.lower ?? 0.8, 'nothing out of order was asked').toBe(0.8)
  })
})
