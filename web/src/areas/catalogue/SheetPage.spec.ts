import { flushPromises } from '@vue/test-utils'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'

import { enter, eventually, mounted, problem, serve } from '@/shared/mount.setup'
import { blankSheet } from './sheetDraft'
// Loaded here, so that no test waits for the transformation of its modules.
import './SheetDesk.vue'
import SheetPage from './SheetPage.vue'

const stored = (finding: string, version: number) => ({
  ...blankSheet('hand_wrist', 'Weakness'),
  id: 'a',
  version,
  status: 'draft',
  next_steps: [],
  sample: false,
  name: 'Thumb lift',
  purpose: 'strength',
  positive_finding: finding,
})

async function page(save: () => unknown, rights?: Parameters<typeof enter>[0]) {
  enter(rights)
  let test = stored('Weaker', 3)
  const asked = serve({
    'GET /regions': [{ region: 'hand_wrist', tests: 1 }],
    'GET /conditions': [],
    'GET /structures': [],
    'GET /tests/a': () => test,
    'GET /tests/a/findings': [],
    'GET /tests/a/results': [],
    'GET /tests/a/pooled': { evidence: 'not_studied', sample: false, pooled: null },
    'GET /unsaved/sheet/a': null,
    'PUT /unsaved/sheet/a': () => new Response(null, { status: 204 }),
    'DELETE /unsaved/sheet/a': () => new Response(null, { status: 204 }),
    'POST /checks': { errors: [], findings: [] },
    'PUT /tests/a': (one: { body: unknown }) => {
      const answer = save()
      if (!(answer instanceof Response)) test = { ...test, ...(one.body as object), version: 4 }
      return answer instanceof Response ? answer : test
    },
  })
  const { wrapper, router } = await mounted(SheetPage, { id: 'a' })
  const wait = async (milliseconds = 1) => {
    await vi.advanceTimersByTimeAsync(milliseconds)
    await flushPromises()
  }
  await wait()
  const open = async (part: string) => {
    await wrapper.get(`[data-test=edit-${part}]`).trigger('click')
    await flushPromises()
    // The form comes when it is asked for.
    await vi.dynamicImportSettled()
    await wait()
  }
  const finding = () => wrapper.get<HTMLTextAreaElement>('[data-path=positive_finding] textarea')
  return { wrapper, router, asked, wait, open, finding }
}

describe('a sheet of several conditions', () => {
  it('shows the figures for the one that is asked about, and changes between them', async () => {
    vi.useRealTimers()
    enter(['read'])
    const conditions = ['Weak', 'Stiff'].map((name) => ({
      id: name,
      region: 'hand_wrist',
      name,
      tests: 1,
      pre_test: 0.3,
    }))
    const asked = serve({
      'GET /regions': [{ region: 'hand_wrist', tests: 1 }],
      'GET /conditions': conditions,
      'GET /tests/a': { ...stored('Weaker', 3), condition: 'Weak', other_conditions: ['Stiff'] },
      'GET /tests/a/results': [],
      'GET /tests/a/pooled': { evidence: 'not_studied', sample: false, pooled: null },
    })
    const { wrapper, router } = await mounted(
      SheetPage,
      { id: 'a' },
      {},
      { region: 'hand_wrist', condition: 'Stiff' },
    )
    await eventually(() => expect(wrapper.find('[data-test=figures-for]').exists()).toBe(true))
    const figures = () => asked.filter((one) => one.path.startsWith('/tests/a/pooled')).map((one) => one.path)
    await eventually(() => expect(figures().at(-1)).toBe('/tests/a/pooled?condition=Stiff'))
    expect(wrapper.get('[data-test=figures-for] b').text()).toBe('Stiff')
    expect(wrapper.get('[data-test=pdf]').attributes('href')).toContain(
      'sheet.pdf?condition=Stiff&pre_test=0.3',
    )
    await wrapper.get('[data-test=figures-for] a').trigger('click')
    await eventually(() => expect(router.currentRoute.value.query.condition).toBe('Weak'))
    await eventually(() => expect(wrapper.get('[data-test=figures-for] b').text()).toBe('Weak'))
  })
})

describe('editing a part of a sheet in its place', () => {
  beforeEach(() => {
    document.body.innerHTML = ''
    vi.useFakeTimers({ toFake: ['setTimeout', 'clearTimeout', 'setInterval', 'clearInterval', 'Date'] })
  })
  afterEach(() => vi.useRealTimers())

  it('opens its form alone, with the part in the address, and closes it once saved', async () => {
    const { wrapper, router, asked, wait, open, finding } = await page(() => 'saved')
    await open('about')
    expect(router.currentRoute.value.query.part).toBe('about')
    expect(wrapper.findAll('[data-test=part-form]')).toHaveLength(1)
    expect(wrapper.find('[data-path=cautions]').exists()).toBe(false)
    await finding().setValue('Gives way')
    await wrapper.get('[data-test=part-form]').trigger('submit')
    await wait()
    const saved = asked.find((one) => one.method === 'PUT' && one.path === '/tests/a')
    expect(saved?.headers.get('If-Match')).toBe('"3"')
    expect(saved?.body).toMatchObject({ positive_finding: 'Gives way', purpose: 'strength' })
    expect(wrapper.find('[data-test=part-form]').exists()).toBe(false)
    expect(router.currentRoute.value.query.part).toBeUndefined()
  })

  it('keeps what is typed from part to part, says so when it is left, and goes on with it', async () => {
    const { wrapper, wait, open, finding } = await page(() => 'saved')
    await open('about')
    await finding().setValue('Half a sent')
    await open('cautions')
    expect(wrapper.get('.finding').text()).toContain('Half a sent')
    await wrapper.get('[data-test=leave-part]').trigger('click')
    await wait(2000)
    expect(wrapper.get('[data-test=left-unsaved]').text()).toContain('You have unsaved changes')
    expect(wrapper.get('.finding').text()).toContain('Weaker')
    await open('about')
    expect(finding().element.value).toBe('Half a sent')
    expect(wrapper.get('[data-test=resumed]').text()).toContain('was restored')
  })

  it('stays open with the words when it is refused, and is offered to writers only', async () => {
    const fault = {
      field: 'positive_finding',
      code: 'missing' as const,
      value: '',
      message: 'Empty.',
      remedy: 'Say.',
    }
    const { wrapper, wait, open } = await page(() => problem(422, 'fields_invalid', [fault]))
    await open('about')
    await wrapper.get('[data-test=part-form]').trigger('submit')
    await wait()
    expect(wrapper.get('[data-test=positive_finding]').text()).toContain('Empty. Say.')
    expect(wrapper.get('[data-test=form-failure]').text()).toBe('One field needs attention')
    document.body.innerHTML = ''
    const reader = await page(() => 'saved', ['read'])
    expect(reader.wrapper.find('[data-test=edit-about]').exists()).toBe(false)
    expect(reader.asked.some((one) => one.path.startsWith('/unsaved'))).toBe(false)
  })
})
