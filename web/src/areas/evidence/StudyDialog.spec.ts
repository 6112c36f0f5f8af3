import { flushPromises } from '@vue/test-utils'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'

import { type Asked, enter, mounted, problem, serve } from '@/shared/mount.setup'
import ReferencePicker from './ReferencePicker.vue'
import { reference } from './references.setup'
import StudyDialog from './StudyDialog.vue'

const table = (tp: number, fp: number, fn: number, tn: number) => ({
  tp,
  fp,
  fn,
  tn,
  rules: { half_up: true, half_even: true },
})
const ratios = { lr_positive: null, lr_negative: null, dor: null }

/** The dialog for a new study; `rebuilt` answers what was printed. */
async function dialog(rebuilt: (asked: Asked) => unknown) {
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
    'POST /tests/a/studies': { id: 's', version: 1 },
  })
  const { wrapper } = await mounted(StudyDialog, { testId: 'a', study: null, open: false })
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

describe('entering a study', () => {
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
      /2 tables give all these figures:\s*Specificity 89.% – 90/,
    )
    find('[data-test=use-table]').click()
    await flushPromises()
    await type('[data-test=reference] textarea', 'Sample report')
    find('[data-test=save-study]')
      .closest('form')
      ?.dispatchEvent(new Event('submit', { cancelable: true }))
    await wait()
    const saved = asked.find((one) => one.path === '/tests/a/studies')?.body
    expect(saved).toMatchObject({ reference: 'Sample report', tp: 18, fp: 4, fn: 5, tn: 33 })
    expect(saved).toMatchObject({
      note: 'Counts rebuilt from printed figures: Sensitivity 0.78, People 60.',
    })
  })

  it('names the figures that contradict each other, and the one that is not understood', async () => {
    let answer: unknown = { outcome: 'contradiction', facts: [1, 0] }
    const { find, type, wait } = await dialog(() => answer)
    await type('[data-test=printed-sens] input', '0.78')
    await type('[data-test=printed-n] input', '3')
    await wait()
    expect(find('[data-test=rebuilt]').textContent).toMatch(
      /No table gives all these figures[\s\S]*People 3[\s\S]*Sensitivity 0\.78/,
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
      find('[data-test=save-study]')
        .closest('form')
        ?.dispatchEvent(new Event('submit', { cancelable: true }))
      await wait()
    }
    await save()
    const saved = () => asked.filter((one) => one.path === '/tests/a/studies').at(-1)?.body
    expect(saved()).toMatchObject({ reference_id: '1', reference: reference('1').citation })
  })

  it('goes back to typing when the reference is another one', async () => {
    const { find, wait, wrapper } = await dialog(() => null)
    wrapper.findComponent(ReferencePicker).vm.$emit('picked', reference('1'))
    await wait()
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
})
