import { flushPromises } from '@vue/test-utils'
import { VSelect } from 'vuetify/components'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'

import type { AgreementView } from '@/shared/api/types'
import { type Asked, enter, mounted, problem, serve } from '@/shared/mount.setup'
import { answer, stored } from './results.setup'
import AgreementDialog from './AgreementDialog.vue'

async function dialog(
  agreement: AgreementView | null,
  answers: Record<string, (asked: Asked) => unknown> = {},
) {
  enter()
  const asked = serve({
    'GET /references': { total: 0, references: [] },
    'POST /agreements/answer': () => answer,
    'POST /tests/a/agreements': { id: 'g', version: 1 },
    'PUT /agreements/g': { ...stored, version: 4 },
    ...answers,
  })
  const { wrapper } = await mounted(AgreementDialog, { testId: 'a', agreement, open: false })
  await wrapper.setProps({ open: true })
  await flushPromises()
  const find = <T extends HTMLElement>(css: string) => document.querySelector<T>(css)!
  const wait = async () => {
    await vi.advanceTimersByTimeAsync(200)
    await flushPromises()
  }
  const type = async (css: string, text: string) => {
    const field = find<HTMLInputElement>(css)
    field.value = text
    field.dispatchEvent(new Event('input', { bubbles: true }))
    await wait()
  }
  const choose = async (css: string, value: string) => {
    wrapper.findComponent<typeof VSelect>(css).vm.$emit('update:modelValue', value)
    await wait()
  }
  const save = async () => {
    find('[data-test=save-agreement]')
      .closest('form')
      ?.dispatchEvent(new Event('submit', { cancelable: true }))
    await wait()
  }
  await wait()
  const sent = (path: string) => asked.filter((one) => one.path === path).at(-1)
  return { find, type, choose, save, wait, sent, wrapper }
}

describe('entering an agreement result', () => {
  beforeEach(() => {
    document.body.innerHTML = ''
    vi.useFakeTimers({ toFake: ['setTimeout', 'clearTimeout'] })
  })
  afterEach(() => vi.useRealTimers())

  it('answers what is pasted, and saves the cells as they were read', async () => {
    const { find, type, save, sent, wrapper } = await dialog(null)
    expect(sent('/agreements/answer')).toBeUndefined()
    await type('[data-test=agreement-cells] textarea', '40;9\n6;45')
    const rows = [
      ['40', '9'],
      ['6', '45'],
    ]
    expect(sent('/agreements/answer')?.body).toEqual({ kind: 'table', rows, weights: 'none' })
    // Of two categories there are no near misses to weigh.
    expect(find('[data-test=weights]')).toBeNull()
    const said = find('[data-test=agreement-live]').textContent
    expect(said).toMatch(/Cohen’s kappa\s*0\.70\s*\(0\.56–0\.84\),\s*substantial/)
    expect(said).toMatch(/Agreement on: yes\s*84.%\s*Agreement on: no\s*never used/)
    await type('[data-test=reference] textarea', 'Sample report')
    await save()
    expect(sent('/tests/a/agreements')?.body).toMatchObject({
      study_id: null,
      study: { reference: 'Sample report' },
      agreement: { between: 'examiners', figures: { kind: 'table', rows } },
    })
    expect(wrapper.emitted('update:open')?.at(-1)).toEqual([false])
  })

  it('names the cells that cannot be read as people count them', async () => {
    const fault = (field: string, value: string) => ({
      field,
      code: 'not_a_count' as const,
      value,
      message: 'This is not a number of people.',
      remedy: 'Give a whole number.',
    })
    const faults = [fault('figures.rows[1][0]', '4S'), ...Array(7).fill(fault('figures.rows[2]', ''))]
    const { find, type } = await dialog(null, {
      'POST /agreements/answer': () => problem(422, 'fields_invalid', faults),
    })
    await type('[data-test=agreement-cells] textarea', '40 9\n4S 45')
    const said = find('[data-test=agreement-cells]').textContent
    expect(said).toContain('Line 2, cell 1 (“4S”): This is not a number of people. Give a whole number.')
    expect(said).toContain('And 3 more.')
  })

  it('shows what is corrected, and tells who was slower without losing a word', async () => {
    let stale = true
    const { find, type, save, sent } = await dialog(stored, {
      'PUT /agreements/g': () => (stale ? problem(412, 'changed_meanwhile') : { ...stored, version: 6 }),
    })
    const cells = () => find<HTMLTextAreaElement>('[data-test=agreement-cells] textarea').value
    expect(cells()).toBe('40\t9\n6\t45')
    expect(find('[data-test=agreement-live]').textContent).toContain('one examiner, 2 occasions, 100 people')
    await type('[data-test=agreement-cells] textarea', '41 9\n6 45')
    await save()
    expect(sent('/agreements/g')?.headers.get('If-Match')).toBe('"3"')
    expect(find('.failure').textContent).toContain('Somebody else has changed this result')
    expect(cells()).toBe('41 9\n6 45')
    stale = false
    await save()
    expect(sent('/agreements/g')?.headers.get('If-Match')).toBe('"5"')
  })

  it('goes on with what was left, cells as they were typed', async () => {
    const first = await dialog(null, {})
    await first.type('[data-test=agreement-cells] textarea', '40;9\n6')
    await vi.advanceTimersByTimeAsync(1300)
    const kept = first.sent('/unsaved/agreement/a')?.body as object
    expect(kept).toMatchObject({ version: 0, content: { kind: 'table', pasted: '40;9\n6' } })
    first.wrapper.unmount()
    document.body.innerHTML = ''
    let left: unknown = { ...kept, at: '2026-11-24T10:00:00Z' }
    const again = await dialog(null, {
      'GET /unsaved/agreement/a': () => left,
      'DELETE /unsaved/agreement/a': () => {
        left = null
        return new Response(null, { status: 204 })
      },
    })
    const cells = () => again.find<HTMLTextAreaElement>('[data-test=agreement-cells] textarea').value
    expect(cells()).toBe('40;9\n6')
    again.find('[data-test=agreement-anew]').click()
    await again.wait()
    expect([cells(), left]).toEqual(['', null])
  })

  it('takes a printed coefficient with its interval, decimal commas too', async () => {
    const { find, type, choose, save, sent } = await dialog(null)
    await choose('[data-test=agreement-kind]', 'reported')
    await type('[data-test=agreement-value] input', '0,7x')
    expect(find('[data-test=agreement-value]').textContent).toContain('This is not a number')
    await save()
    expect(sent('/tests/a/agreements')).toBeUndefined()
    await type('[data-test=agreement-value] input', '0,71')
    await type('[data-test=agreement-lower] input', '0.53')
    await type('[data-test=agreement-upper] input', '0.89')
    expect(sent('/agreements/answer')?.body).toEqual({
      kind: 'reported',
      coefficient: 'kappa',
      value: 0.71,
      lower: 0.53,
      upper: 0.89,
      se: null,
      subjects: null,
      raters: null,
    })
  })
})
