import { flushPromises } from '@vue/test-utils'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { VAutocomplete, VSelect } from 'vuetify/components'

import { blankSheet } from '@/areas/catalogue/sheetDraft'
import type { ResultView } from '@/shared/api/types'
import { type Asked, enter, mounted, problem, serve } from '@/shared/mount.setup'
import { undoBar } from '@/shared/undo'
import ReferencePicker from './ReferencePicker.vue'
import { reference } from './references.setup'
import ResultDetails from './ResultDetails.vue'
import ResultDialog from './ResultDialog.vue'
import { result, study } from './results.setup'

const table = (tp: number, fp: number, fn: number, tn: number) => ({
  tp,
  fp,
  fn,
  tn,
  rules: { half_up: true, half_even: true },
})
const ratios = { lr_positive: null, lr_negative: null, dor: null }

const sheet = {
  ...blankSheet('hand_wrist', 'Weakness'),
  id: 'a',
  variants: [
    { name: 'As taught', grading: { levels: [] } },
    { name: 'Pressed', grading: { levels: [] } },
  ],
}

/** The dialog for a new result, or for one that is corrected; `answers` are added to what the server says. */
async function dialog(
  rebuilt: (asked: Asked) => unknown,
  result: ResultView | null = null,
  answers: Record<string, unknown> = {},
) {
  enter()
  const asked = serve({
    'GET /regions': [],
    'GET /conditions': [],
    'POST /rebuilds': rebuilt,
    'POST /accuracy': {
      ...ratios,
      sensitivity: null,
      specificity: null,
      notes: [],
      methods: { level: 0.95 },
    },
    'GET /references': { total: 1, references: [reference('1')] },
    'POST /tests/a/results': { id: 's', version: 1 },
    'GET /tests/a': sheet,
    'GET /tests': [
      { id: 'a', name: 'Thumb lift' },
      { id: 'b', name: 'Thumb press' },
    ],
    'GET /studies': [],
    ...answers,
  })
  const { wrapper } = await mounted(ResultDialog, { testId: 'a', result, open: false })
  await wrapper.setProps({ open: true })
  await flushPromises()
  const find = <T extends HTMLElement>(css: string) => document.querySelector<T>(css)!
  const type = async (css: string, text: string) => {
    const field = find<HTMLInputElement>(css)
    field.value = text
    field.dispatchEvent(new Event('input', { bubbles: true }))
    await flushPromises()
  }
  const wait = async () => {
    await vi.advanceTimersByTimeAsync(200)
    await flushPromises()
  }
  return { asked, find, type, wait, wrapper }
}

describe('entering a result', () => {
  beforeEach(() => {
    document.body.innerHTML = ''
    vi.useFakeTimers({ toFake: ['setTimeout', 'clearTimeout'] })
  })
  afterEach(() => vi.useRealTimers())

  it('fills in a table that was rebuilt, and notes what it was rebuilt from', async () => {
    const { asked, find, type, wait } = await dialog(() => ({
      outcome: 'several',
      tables: [table(18, 4, 5, 33), table(36, 8, 10, 66)],
      spread: {
        sensitivity: [0.7826, 0.7826],
        specificity: [0.89, 0.9],
        lr_positive: null,
        lr_negative: null,
      },
    }))
    await type('[data-test=printed-sens] input', '0.78')
    await wait()
    expect(asked.filter((one) => one.path === '/rebuilds')).toHaveLength(0)
    await type('[data-test=printed-n] input', ' 60 ')
    await wait()
    expect(asked.find((one) => one.path === '/rebuilds')?.body).toEqual({
      statements: [
        { name: 'sens', value: '0.78' },
        { name: 'n', value: '60' },
      ],
    })
    expect(find('[data-test=rebuilt]').textContent).toMatch(
      /2 2x2 tables match all these figures:\s*Specificity 89.% – 90/,
    )
    find('[data-test=use-table]').click()
    await flushPromises()
    await type('[data-test=reference] textarea', 'Sample report')
    find('[data-test=save-result]')
      .closest('form')
      ?.dispatchEvent(new Event('submit', { cancelable: true }))
    await wait()
    const saved = asked.find((one) => one.path === '/tests/a/results')?.body
    const note = 'Counts rebuilt from printed figures: Sensitivity 0.78, People 60.'
    expect(saved).toMatchObject({
      study_id: null,
      study: { reference: 'Sample report' },
      result: { tp: 18, fp: 4, fn: 5, tn: 33, note },
    })
  })

  it('names the figures that contradict each other, and the one that is not understood', async () => {
    let answer: unknown = { outcome: 'contradiction', facts: [1, 0] }
    const { find, type, wait } = await dialog(() => answer)
    await type('[data-test=printed-sens] input', '0.78')
    await type('[data-test=printed-n] input', '3')
    await wait()
    expect(find('[data-test=rebuilt]').textContent).toMatch(
      /No 2x2 table matches all these figures[\s\S]*People 3[\s\S]*Sensitivity 0\.78/,
    )
    const fault = {
      field: 'statements[1].value',
      code: 'invalid' as const,
      value: 'x',
      message: 'This is not understood.',
      remedy: 'Write it as printed.',
    }
    answer = problem(422, 'fields_invalid', [fault])
    await type('[data-test=printed-n] input', 'x')
    await wait()
    expect(find('[data-test=printed-n]').textContent).toContain(
      'This is not understood. Write it as printed.',
    )
    expect(find('[data-test=rebuilt]').textContent).not.toContain('No table')
  })

  it('points to a reference on record, and lets it go again', async () => {
    const { asked, find, type, wait, wrapper } = await dialog(() => null)
    await type('[data-test=pick-reference] input', 'quellan')
    await wait()
    await wait()
    expect(asked.some((one) => one.path.startsWith('/references?search=quellan'))).toBe(true)
    wrapper.findComponent(ReferencePicker).vm.$emit('picked', reference('1'))
    await wait()
    expect(find('[data-test=cited]').textContent).toContain('Quellan A. Held flexion 1.')
    const save = async () => {
      find('[data-test=save-result]')
        .closest('form')
        ?.dispatchEvent(new Event('submit', { cancelable: true }))
      await wait()
    }
    await save()
    const saved = () => asked.filter((one) => one.path === '/tests/a/results').at(-1)?.body
    expect(saved()).toMatchObject({ study: { reference_id: '1', reference: reference('1').citation } })
  })

  it('goes back to typing when the reference is another one, or is gone', async () => {
    const message = 'This reference is not on record, or was deleted.'
    const fault = { field: 'study.reference_id', code: 'unknown' as const, value: '1', message }
    const refused = () => problem(422, 'fields_invalid', [{ ...fault, remedy: 'Choose another one.' }])
    const { find, wait, wrapper } = await dialog(() => null, null, { 'POST /tests/a/results': refused })
    wrapper.findComponent(ReferencePicker).vm.$emit('picked', reference('1'))
    await wait()
    find('[data-test=save-result]')
      .closest('form')
      ?.dispatchEvent(new Event('submit', { cancelable: true }))
    await wait()
    expect(find('[data-test=cited]').textContent).toContain('was deleted. Choose another one.')
    find('[data-test=uncite]').click()
    await wait()
    expect(find<HTMLTextAreaElement>('[data-test=reference] textarea').value).toBe('')
    expect(find('[data-test=pick-reference]')).not.toBeNull()
  })

  it('takes all four counts from one paste, and leaves a single number to its field', async () => {
    const { find, wait } = await dialog(() => null)
    const paste = (text: string) => {
      const event = Object.assign(new Event('paste', { bubbles: true, cancelable: true }), {
        clipboardData: { getData: () => text },
      })
      find('[data-test=cell-tp]').dispatchEvent(event)
      return event.defaultPrevented
    }
    expect(paste('34')).toBe(false)
    expect(paste('TP 34, FP 5, FN 6, TN 40')).toBe(true)
    await wait()
    const shown = ['tp', 'fp', 'fn', 'tn'].map(
      (cell) => find<HTMLInputElement>(`[data-test=cell-${cell}]`).value,
    )
    expect(shown).toEqual(['34', '5', '6', '40'])
  })

  it('offers the people of the report that are on record, and makes a new study of others', async () => {
    const known = { ...study, setup: { people: 75 }, tests: [{ id: 'b', name: 'Thumb press' }] }
    const { asked, find, type, wait } = await dialog(() => null, null, { 'GET /studies': [known] })
    await type('[data-test=reference] textarea', ' Sample report ')
    await wait()
    await wait()
    expect(asked.at(-1)?.path).toBe('/studies?reference=Sample%20report')
    expect(find('[data-test=known-studies]').textContent).toContain('Adults · 75 examined · Thumb press')
    const save = async () => {
      find('[data-test=save-result]')
        .closest('form')
        ?.dispatchEvent(new Event('submit', { cancelable: true }))
      await wait()
      return asked.filter((one) => one.path === '/tests/a/results').at(-1)?.body
    }
    find('[data-test=same-people]').click()
    await wait()
    expect(find('[data-test=of-study]').textContent).toContain('One other result is of the same patients.')
    const words = { reference: 'Sample report', population: 'Adults', setup: { people: 75 } }
    expect(await save()).toMatchObject({ study_id: 's', study_version: 2, study: words })
    find('[data-test=other-people]').click()
    await wait()
    expect(await save()).toMatchObject({
      study_id: null,
      study_version: null,
      study: { reference: 'Sample report', population: '', setup: {} },
    })
  })

  it('says in what the result differs from the sheet, and which tests were read together', async () => {
    const { asked, find, type, wait, wrapper } = await dialog(() => null)
    const fields = wrapper.getComponent(ResultDetails)
    const select = (css: string) => fields.getComponent<typeof VSelect>(css)
    expect(select('[data-test=variant]').props('items')).toEqual(['Pressed'])
    select('[data-test=variant]').vm.$emit('update:modelValue', 'Pressed')
    await type('[data-test=criterion] input', 'Much weaker')
    select('[data-test=unit]').vm.$emit('update:modelValue', 'side')
    const others = fields.getComponent<typeof VAutocomplete>('[data-test=others]')
    expect(others.props('items')).toEqual([{ id: 'b', name: 'Thumb press' }])
    others.vm.$emit('update:modelValue', [{ id: 'b', name: 'Thumb press' }])
    await wait()
    select('[data-test=rule]').vm.$emit('update:modelValue', 'at_least')
    await wait()
    expect(find('[data-test=result-said]').textContent).toBe(
      'done as: Pressed · positive: Much weaker · counted by side · together with Thumb press, positive when at least 2 of them are',
    )
    find('[data-test=save-result]')
      .closest('form')
      ?.dispatchEvent(new Event('submit', { cancelable: true }))
    await wait()
    expect(asked.find((one) => one.path === '/tests/a/results')?.body).toMatchObject({
      result: { variant: 'Pressed', unit: 'side', together: { tests: ['b'], rule: { at_least: 2 } } },
    })
  })

  it('takes people outside the table as numbers, 0 as 0 and nothing as not told', async () => {
    const { find, type, wait, asked } = await dialog(() => null)
    expect(find<HTMLDetailsElement>('[data-test=flow]').open, 'folded until something is told').toBe(false)
    await type('[data-test=positive_unverified] input', '0')
    await type('[data-test=negative_unverified] input', '90')
    await type('[data-test=uninterpretable_with] input', '4')
    await type('[data-test=uninterpretable_with] input', '')
    expect(find<HTMLDetailsElement>('[data-test=flow]').open).toBe(true)
    find('[data-test=save-result]')
      .closest('form')
      ?.dispatchEvent(new Event('submit', { cancelable: true }))
    await wait()
    expect(asked.find((one) => one.path === '/tests/a/results')?.body).toMatchObject({
      result: { positive_unverified: 0, negative_unverified: 90, uninterpretable_with: null },
    })
  })

  it('keeps other tests that may not be seen here', async () => {
    const together = { tests: ['hidden', 'b'], rule: 'any' as const }
    const others = [{ id: 'b', name: 'Thumb press' }]
    const { find, wait, asked, wrapper } = await dialog(
      () => null,
      { ...result, together, others },
      { 'PUT /results/r': { ...result, version: 4 } },
    )
    const field = wrapper.getComponent(ResultDetails).getComponent<typeof VAutocomplete>('[data-test=others]')
    field.vm.$emit('update:modelValue', [])
    await wait()
    find('[data-test=save-result]')
      .closest('form')
      ?.dispatchEvent(new Event('submit', { cancelable: true }))
    await wait()
    const sent = asked.find((one) => one.method === 'PUT')?.body
    expect(sent).toMatchObject({ result: { together: { tests: ['hidden'], rule: 'any' } } })
  })

  it('keeps what is typed, goes on with it, and brings back what was put away', async () => {
    let left: unknown = null
    const server = {
      'GET /unsaved/result/a': () => left,
      'PUT /unsaved/result/a': ({ body }: Asked) => {
        left = { ...(body as object), at: '2026-11-24T10:00:00Z' }
        return new Response(null, { status: 204 })
      },
      'DELETE /unsaved/result/a': () => {
        left = null
        return new Response(null, { status: 204 })
      },
    }
    const first = await dialog(() => null, null, server)
    await vi.advanceTimersByTimeAsync(6000)
    expect(left, 'opening a form keeps nothing').toBeNull()
    await first.type('[data-test=cell-tp]', '34')
    await first.type('[data-test=page] input', 'Table 2')
    await vi.advanceTimersByTimeAsync(1300)
    await flushPromises()
    expect(left).toMatchObject({ version: 0, content: { cells: { tp: 34 }, words: { page: 'Table 2' } } })
    expect(first.find('[data-test=result-kept]').textContent).toContain('Kept as typed')
    first.wrapper.unmount()
    document.body.innerHTML = ''
    // Another day, or after the browser broke down.
    const again = await dialog(() => null, null, server)
    expect(again.find('[data-test=result-resumed]').textContent).toContain('was restored')
    expect(again.find<HTMLInputElement>('[data-test=page] input').value).toBe('Table 2')
    again.find('[data-test=cancel-result]').click()
    await flushPromises()
    expect([left, undoBar.message]).toEqual([null, 'Discarded.'])
    await undoBar.action?.()
    expect(left).toMatchObject({ content: { cells: { tp: 34 } } })
    expect(again.wrapper.emitted('update:open')?.at(-1)).toEqual([true])
  })

  it('shows what was saved meanwhile, of the result and of its study, and keeps what was typed', async () => {
    const conflict = () => problem(412, 'changed_meanwhile', [], { changed: 'study' })
    const theirs = { ...result, version: 5, study: { ...study, version: 5, population: 'Children' } }
    const { asked, find, type, wait } = await dialog(() => null, result, {
      'PUT /results/r': conflict,
      'GET /tests/a/results': [theirs],
    })
    const save = async () => {
      find('[data-test=save-result]')
        .closest('form')
        ?.dispatchEvent(new Event('submit', { cancelable: true }))
      await wait()
      await wait()
      const { headers, body } = asked.filter((one) => one.method === 'PUT').at(-1)!
      return [headers.get('If-Match'), (body as { study_version: number }).study_version]
    }
    expect(await save()).toEqual(['"3"', 2])
    expect(find('[data-test=result-dialog]').textContent).toContain(
      'Saved by others: Sample report · Children · TP 20, FP 1, FN 5, TN 24',
    )
    const words = () => asked.filter((one) => one.method === 'PUT').at(-1)?.body
    expect(await save(), 'both start from what stands').toEqual(['"5"', 5])
    expect(words(), 'nothing was typed of the study').toMatchObject({ study: { population: 'Children' } })
    await type('[data-test=population] input', 'Adults and children')
    await save()
    expect(words()).toMatchObject({ study: { population: 'Adults and children' } })
  })
})
