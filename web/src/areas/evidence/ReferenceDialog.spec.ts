import { flushPromises } from '@vue/test-utils'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'

import { enter, mounted, problem, serve } from '@/shared/mount.setup'
import { undoBar } from '@/shared/undo'
import ReferenceDialog from './ReferenceDialog.vue'
import { authorLines, authorsFrom } from './referenceActions'
import { reference } from './references.setup'

type Answers = Parameters<typeof serve>[0]

async function dialog(edited: ReturnType<typeof reference> | null, answers: Answers) {
  enter()
  const asked = serve({ 'POST /references/alike': [], ...answers })
  const { wrapper } = await mounted(ReferenceDialog, { reference: edited, open: false })
  await wrapper.setProps({ open: true })
  await flushPromises()
  const find = <T extends HTMLElement>(css: string) => document.querySelector<T>(css)!
  const type = async (css: string, text: string) => {
    const field = find<HTMLInputElement>(css)
    field.value = text
    field.dispatchEvent(new Event('input', { bubbles: true }))
    await flushPromises()
  }
  const submit = async (css: string) => {
    find(css)
      .closest('form')
      ?.dispatchEvent(new Event('submit', { cancelable: true }))
    await wait()
  }
  const wait = async () => {
    await vi.advanceTimersByTimeAsync(200)
    await flushPromises()
  }
  const sent = (method: string) => asked.filter((one) => one.method === method)
  return { find, type, submit, wait, sent, wrapper }
}

describe('a reference', () => {
  beforeEach(() => {
    document.body.innerHTML = ''
    vi.useFakeTimers({ toFake: ['setTimeout', 'clearTimeout'] })
  })
  afterEach(() => vi.useRealTimers())

  it('is filled in by its identifier, and saved with what was corrected', async () => {
    const { find, type, submit, sent } = await dialog(null, {
      'GET /works': reference('1', { doi: '10.5555/ab.1' }),
      'POST /references': reference('new'),
    })
    await type('[data-test=identifier] input', '10.5555/AB.1')
    await submit('[data-test=look-up]')
    expect(sent('GET').at(-1)?.path).toBe('/works?identifier=10.5555%2FAB.1')
    expect(find('[data-test=looked-up]').textContent).toContain('Compare it with the paper')
    expect(find<HTMLTextAreaElement>('[data-test=authors] textarea').value).toBe('Quellan, A.')
    await type('[data-test=authors] textarea', 'Quellan, A. B.\n\nFenwater Teaching Clinic\n')
    await type('[data-test=year] input', '2020')
    await submit('[data-test=save-reference]')
    expect(sent('POST').find((one) => one.path === '/references')?.body).toMatchObject({
      title: 'Held flexion 1',
      doi: '10.5555/ab.1',
      year: 2020,
      authors: [
        { family: 'Quellan', given: 'A. B.' },
        { family: 'Fenwater Teaching Clinic', given: '' },
      ],
    })
    expect(undoBar.message).toBe('Reference added.')
  })

  it('says why nothing was found, and gives up when told to', async () => {
    let answer: () => unknown = () => problem(502, 'registry_failed')
    const { find, type, submit } = await dialog(null, { 'GET /works': () => answer() })
    await type('[data-test=identifier] input', '10.5555/down.1')
    await submit('[data-test=look-up]')
    expect(find('[data-test=looked-up]').textContent).toContain('registry_failed')
    answer = () => new Promise(() => {})
    await submit('[data-test=look-up]')
    expect(find('[data-test=looked-up]').textContent).toBe('')
    find('[data-test=stop-looking]').click()
    await flushPromises()
    expect(find('[data-test=look-up]')).not.toBeNull()
  })

  it('names what is like it, and what is wrong with each field', async () => {
    const like = { ...reference('7'), likeness: { because: 'similar_title', similarity: 0.95 } }
    const fault = (field: string, message: string) => ({
      field,
      code: 'invalid' as const,
      value: '',
      message,
      remedy: 'Look again.',
    })
    const { find, type, submit, wait } = await dialog(null, {
      'POST /references/alike': [like],
      'POST /references': problem(422, 'fields_invalid', [
        fault('year', 'No year.'),
        fault('authors[1].family', 'No name.'),
      ]),
    })
    await type('[data-test=title] textarea', 'Held flexion of')
    await wait()
    expect(find('[data-test=alike]').textContent).toMatch(/Possible duplicate[\s\S]*nearly the same title/)
    await submit('[data-test=save-reference]')
    expect(find('[data-test=year]').textContent).toContain('No year. Look again.')
    expect(find('[data-test=authors]').textContent).toContain('No name.')
  })

  it('is corrected over the version that was read; who was slower keeps the words', async () => {
    const edited = reference('9', { version: 4 })
    let answers: unknown[] = [problem(412, 'changed_meanwhile'), reference('9', { version: 6 })]
    const { find, type, submit, sent } = await dialog(edited, { 'PUT /references/9': () => answers.shift() })
    expect(document.querySelector('[data-test=identifier]')).toBeNull()
    await type('[data-test=title] textarea', 'Held flexion, corrected')
    await submit('[data-test=save-reference]')
    expect(find('[role=alert]').textContent).toContain('Somebody else has changed this reference')
    await submit('[data-test=save-reference]')
    expect(sent('PUT').map((one) => one.headers.get('If-Match'))).toEqual(['"4"', '"5"'])
    expect(sent('PUT')[1]?.body).toMatchObject({ title: 'Held flexion, corrected', year: 2019 })
    answers = [reference('9', { version: 7 })]
    await undoBar.action?.()
    expect(sent('PUT')[2]?.body).toMatchObject({ title: 'Held flexion 9' })
    expect(sent('PUT')[2]?.headers.get('If-Match')).toBe('"6"')
  })
})

describe('authors', () => {
  it('are lines, and come back the same', () => {
    const authors = [
      { family: 'van der Tosk', given: 'C.' },
      { family: 'Fenwater Teaching Clinic', given: '' },
    ]
    expect(authorLines(authors)).toBe('van der Tosk, C.\nFenwater Teaching Clinic')
    expect(authorsFrom(authorLines(authors))).toEqual(authors)
    expect(authorsFrom(' \n')).toEqual([])
  })
})
