import { flushPromises } from '@vue/test-utils'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'

import type { Finding, SheetInput } from '@/shared/api/types'
import { type Asked, enter, mounted, problem, serve } from '@/shared/mount.setup'
import SheetEditPage from './SheetEditPage.vue'
import { blankSheet } from './sheetDraft'

const sheet = (more: Partial<SheetInput> = {}): SheetInput => ({
  ...blankSheet('hand_wrist', 'Weakness'),
  name: 'Thumb lift',
  purpose: 'strength',
  positive_finding: 'Weaker',
  ...more,
})
const stored = (more: Partial<SheetInput> = {}, version = 3) => ({
  ...sheet(more),
  id: 'a',
  version,
  status: 'draft',
  next_steps: [],
  sample: false,
})
const finding: Finding = {
  code: 'no_caution',
  field: 'cautions',
  message: 'No caution is written.',
  remedy: 'Write.',
}

interface Answers {
  kept?: unknown
  findings?: Finding[]
  save?: (asked: Asked) => unknown
  test?: () => unknown
}

/** The editor of a stored sheet, or of a new one; timers stand still until they are turned on. */
async function editor(id: string | undefined, answers: Answers = {}, query: Record<string, string> = {}) {
  enter()
  const place = id ?? 'new'
  const asked = serve({
    'GET /tests/a/history': () => [{ version: 3, sheet: stored() }],
    'GET /regions': [{ region: 'hand_wrist', tests: 1 }],
    'GET /conditions': [],
    'GET /structures': [],
    'GET /tests/a': answers.test ?? stored(),
    [`GET /unsaved/sheet/${place}`]: answers.kept ?? null,
    [`PUT /unsaved/sheet/${place}`]: () => new Response(null, { status: 204 }),
    [`DELETE /unsaved/sheet/${place}`]: () => new Response(null, { status: 204 }),
    'POST /checks': { errors: [], findings: answers.findings ?? [] },
    'PUT /tests/a': answers.save ?? stored(),
    'POST /tests': answers.save ?? stored(),
  })
  const { wrapper, router } = await mounted(SheetEditPage, id ? { id } : {}, {}, query)
  await flushPromises()
  const wait = async (milliseconds: number) => {
    await vi.advanceTimersByTimeAsync(milliseconds)
    await flushPromises()
  }
  await wait(1)
  const field = (path: string) =>
    wrapper.get<HTMLInputElement>(`[data-path="${path}"] input, [data-path="${path}"] textarea`)
  const type = async (path: string, text: string) => {
    await field(path).setValue(text)
    await flushPromises()
  }
  const save = async () => {
    await wrapper.get('form').trigger('submit')
    await wait(1)
  }
  const sent = (method: string, path: string) =>
    asked.filter((one) => one.method === method && one.path === path)
  return { wrapper, router, asked, wait, field, type, save, sent }
}

describe('writing a sheet', () => {
  beforeEach(() => {
    document.body.innerHTML = ''
    vi.useFakeTimers({ toFake: ['setTimeout', 'clearTimeout', 'setInterval', 'clearInterval', 'Date'] })
  })
  afterEach(() => vi.useRealTimers())

  it('keeps what is typed a moment after the typing stops, with the version it began from', async () => {
    const { type, wait, sent, wrapper } = await editor('a')
    await wait(2000)
    expect(sent('PUT', '/unsaved/sheet/a')).toHaveLength(0)
    await type('positive_finding', 'Gives')
    expect(wrapper.get('[data-test=kept]').text()).toBe('Not kept yet')
    await wait(600)
    await type('positive_finding', 'Gives way')
    await wait(1300)
    const kept = sent('PUT', '/unsaved/sheet/a')
    expect(kept).toHaveLength(1)
    expect(kept[0]?.body).toMatchObject({ version: 3, content: { positive_finding: 'Gives way' } })
    expect(wrapper.get('[data-test=kept]').text()).toContain('Kept as typed')
  })

  it('goes on with what was left, saves it against the version it began from, or begins anew', async () => {
    const left = {
      version: 2,
      content: sheet({ positive_finding: 'Half a sent' }),
      at: '2026-11-24T10:00:00Z',
    }
    const { wrapper, field, save, sent, wait } = await editor('a', { kept: left })
    expect(wrapper.get('[data-test=resumed]').text()).toContain('was restored')
    expect(field('positive_finding').element.value).toBe('Half a sent')
    await save()
    expect(sent('PUT', '/tests/a')[0]?.headers.get('If-Match')).toBe('"2"')
    document.body.innerHTML = ''
    const other = await editor('a', { kept: left })
    await other.wrapper.get('[data-test=begin-anew]').trigger('click')
    await other.wait(1)
    expect(other.sent('DELETE', '/unsaved/sheet/a')).toHaveLength(1)
    expect(other.field('positive_finding').element.value).toBe('Weaker')
    expect(other.wrapper.find('[data-test=resumed]').exists()).toBe(false)
    await wait(1)
  })

  it('forgets what was kept when everything is undone, and touches nothing by being opened', async () => {
    const { type, wait, sent, asked } = await editor('a')
    await wait(6000)
    expect(asked.filter((one) => ['PUT', 'DELETE'].includes(one.method))).toEqual([])
    await type('positive_finding', 'Gives way')
    await wait(1300)
    await type('positive_finding', 'Weaker')
    await wait(1300)
    expect([sent('PUT', '/unsaved/sheet/a').length, sent('DELETE', '/unsaved/sheet/a').length]).toEqual([
      1, 1,
    ])
  })

  it('does not write a copy of another sheet over a new one that was left', async () => {
    const left = { version: null, content: sheet({ name: 'Half written' }), at: '2026-11-24T10:00:00Z' }
    const { wrapper, field, wait } = await editor(undefined, { kept: left }, { from: 'a' })
    expect(field('name').element.value).toBe('Half written')
    const anew = wrapper.get('[data-test=begin-anew]')
    expect(anew.text()).toContain('start from the other sheet')
    await anew.trigger('click')
    await wait(1)
    expect([field('name').element.value, field('positive_finding').element.value]).toEqual(['', 'Weaker'])
  })

  it('saves, forgets what was kept, and shows the sheet', async () => {
    const { type, save, sent, router } = await editor('a')
    await type('positive_finding', 'Gives way')
    await save()
    const [saved] = sent('PUT', '/tests/a')
    expect(saved?.headers.get('If-Match')).toBe('"3"')
    expect(saved?.body).toMatchObject({ positive_finding: 'Gives way', purpose: 'strength' })
    expect(saved?.body).not.toHaveProperty('status')
    expect(sent('DELETE', '/unsaved/sheet/a')).toHaveLength(1)
    expect(router.currentRoute.value.name).toBe('sheet')
  })

  it('takes steps back and forth', async () => {
    const { type, wait, wrapper, field } = await editor('a')
    await wait(500)
    await type('positive_finding', 'First')
    await wait(500)
    await type('positive_finding', 'Second')
    await wait(500)
    await wrapper.get('[data-test=undo-typing]').trigger('click')
    await wait(1)
    expect(field('positive_finding').element.value).toBe('First')
    window.dispatchEvent(new KeyboardEvent('keydown', { key: 'z', ctrlKey: true }))
    await wait(1)
    expect(field('positive_finding').element.value).toBe('Weaker')
    window.dispatchEvent(new KeyboardEvent('keydown', { key: 'z', ctrlKey: true, shiftKey: true }))
    await wait(1)
    expect(field('positive_finding').element.value).toBe('First')
  })

  it('shows in the margin what the checks found, and says what is refused beside its field', async () => {
    const fault = {
      field: 'name',
      code: 'missing' as const,
      value: '',
      message: 'This field is empty.',
      remedy: 'Name it.',
    }
    const { wait, save, wrapper } = await editor(undefined, {
      findings: [finding],
      save: () => problem(422, 'fields_invalid', [fault]),
    })
    await wait(400)
    expect(wrapper.get('[data-test=findings]').text()).toContain('No caution is written.')
    await save()
    expect(wrapper.get('[data-test=form-failure]').text()).toBe('One field needs attention')
    expect(wrapper.get('[data-test=name]').text()).toContain('This field is empty. Name it.')
  })

  it('says that a name is taken until the name is changed', async () => {
    const taken = {
      field: 'name',
      code: 'duplicate' as const,
      value: 'Thumb lift',
      message: 'Another test already has this name or alias.',
      remedy: 'Choose another.',
    }
    const { wait, save, type, wrapper } = await editor(undefined, {
      save: () => problem(422, 'fields_invalid', [taken]),
    })
    await type('name', 'Thumb lift')
    // Refused before the text was looked over, which cannot know the names of other tests.
    await save()
    await wait(400)
    await type('positive_finding', 'Weaker')
    await wait(400)
    expect(wrapper.get('[data-test=name]').text()).toContain('Another test already has this name')
    await type('name', 'Thumb lift, standing')
    await wait(400)
    expect(wrapper.get('[data-test=name]').text()).not.toContain('Another test already has this name')
    expect(wrapper.find('[data-test=form-failure]').exists()).toBe(false)
  })

  it('keeps both texts when somebody else saved first, and saves what was chosen', async () => {
    let saves = 0
    const theirs = stored(
      { positive_finding: 'Theirs', retest: { ...sheet().retest, keep_same: 'Chair' } },
      4,
    )
    let test: unknown = stored()
    const { type, save, wrapper, sent, wait } = await editor('a', {
      test: () => test,
      save: () => (saves++ ? stored({}, 5) : problem(412, 'changed_meanwhile')),
    })
    await type('positive_finding', 'Mine')
    test = theirs
    await save()
    const conflict = wrapper.get('[data-test=conflict]')
    expect(conflict.text()).toContain('Mine')
    expect(conflict.text()).toContain('Theirs')
    // The finding was changed by both and is asked; the retest only by them and is taken.
    expect(conflict.findAll('[data-test=contested-both]')).toHaveLength(1)
    expect(conflict.findAll('[data-test=contested-them]')).toHaveLength(1)
    expect(conflict.get('[data-test=settle]').attributes('disabled')).toBeDefined()
    await conflict.get('[data-test=take-me-positive_finding]').setValue(true)
    await conflict.get('[data-test=settle]').trigger('click')
    await wait(1)
    const last = sent('PUT', '/tests/a').at(-1)
    expect(last?.headers.get('If-Match')).toBe('"4"')
    expect(last?.body).toMatchObject({ positive_finding: 'Mine', retest: { keep_same: 'Chair' } })
  })
})
