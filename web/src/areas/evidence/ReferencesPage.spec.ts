import { flushPromises } from '@vue/test-utils'
import { beforeEach, describe, expect, it } from 'vitest'

import { type Asked, enter, eventually, importView, mounted, problem, serve } from '@/shared/mount.setup'
import { undoBar } from '@/shared/undo'
import ReferenceImport from './ReferenceImport.vue'
import ReferencesPage from './ReferencesPage.vue'
import { reference } from './references.setup'

const WRITER = ['read', 'read_drafts', 'write_studies'] as Parameters<typeof enter>[0]

async function page(query: Record<string, string>, answers: Record<string, unknown>, rights = WRITER) {
  enter(rights)
  const asked = serve({ 'GET /regions': [], 'GET /conditions': [], ...answers })
  const { wrapper, router } = await mounted(ReferencesPage, {}, {}, query)
  await flushPromises()
  return { wrapper, router, asked }
}

describe('the list of references', () => {
  beforeEach(() => (document.body.innerHTML = ''))

  it('asks for what the address says, page by page', async () => {
    const query = { search: 'quellan', order: 'year', style: 'apa', page: '2' }
    const { wrapper, router, asked } = await page(query, {
      'GET /references': { total: 120, references: [reference('1', { studies: 2 }), reference('2')] },
      'GET /references/1/tests': [{ id: 't', name: 'Thumb lift' }],
    })
    const list = asked.find((one) => one.path.startsWith('/references?'))
    expect(list?.path).toBe('/references?search=quellan&order=year&style=apa&offset=50&limit=50')
    expect(wrapper.get('[data-test=reference-count]').text()).toBe('120 references')
    expect(wrapper.get('.pages').text()).toContain('51–52 of 120')
    await wrapper.get('.pages button').trigger('click')
    await eventually(() =>
      expect(router.currentRoute.value.query).toEqual({ search: 'quellan', order: 'year', style: 'apa' }),
    )
    expect(wrapper.findAll('[data-test=reported]')).toHaveLength(1)
    const details = wrapper.get<HTMLDetailsElement>('details')
    details.element.open = true
    await details.trigger('toggle')
    await eventually(() => expect(details.text()).toContain('Thumb lift'))
  })

  it('deletes with an undo, and says why it may not', async () => {
    const answers: unknown[] = [reference('1', { version: 2 }), problem(422, 'fields_invalid')]
    const { wrapper, asked } = await page(
      {},
      {
        'GET /references': { total: 1, references: [reference('1')] },
        'DELETE /references/1': () => answers.shift(),
        'POST /references/1/restore': reference('1', { version: 3 }),
      },
    )
    await wrapper.get('[data-test=remove-reference]').trigger('click')
    await eventually(() => expect(undoBar.message).toBe('Deleted: Quellan 1'))
    await undoBar.action?.()
    const restored = asked.find((one: Asked) => one.path === '/references/1/restore')
    expect(restored?.headers.get('If-Match')).toBe('"2"')
    await wrapper.get('[data-test=remove-reference]').trigger('click')
    await eventually(() => expect(undoBar.message).toContain('fields_invalid'))
  })

  it('shows readers the list and nothing to change it', async () => {
    const one = { total: 1, references: [reference('1')] }
    const { wrapper } = await page({}, { 'GET /references': one }, ['read'])
    expect(wrapper.text()).toContain('Held flexion 1')
    for (const control of ['add-reference', 'bring-in', 'take-out', 'edit-reference', 'remove-reference'])
      expect(wrapper.find(`[data-test=${control}]`).exists(), control).toBe(false)
  })

  it('tells an empty list from a search that finds nothing', async () => {
    const none = { 'GET /references': { total: 0, references: [] } }
    expect((await page({}, none)).wrapper.text()).toContain('No reference yet')
    expect((await page({ search: 'zzz' }, none)).wrapper.text()).toContain('Nothing found')
  })
})

describe('a file of references', () => {
  beforeEach(() => (document.body.innerHTML = ''))

  const brought = (index: number, encounter: string, like: string | null = null) => ({
    index,
    label: `Quellan ${index}`,
    title: `Title ${index}`,
    encounter,
    added: encounter === 'new',
    likeness: null,
    like,
  })

  it('says how far a long one is, and stops it', async () => {
    const busy = importView('busy', { phase: 'comparing', done: 500, of: 100_000 })
    const { find, asked } = await choose(({ method }) => (method === 'DELETE' ? importView('stopped') : busy))
    await eventually(() =>
      expect(find('[data-test=import-progress]').textContent).toMatch(/the catalogue: 500 of 100.000/),
    )
    find('[data-test=stop-import]').click()
    await eventually(() =>
      expect(find('[data-test=import-failure]').textContent).toContain('Nothing was changed'),
    )
    expect(asked.at(-1)?.path).toBe('/imports/i')
    expect(document.querySelector('[data-test=bring-references]')).toBeNull()
  })

  async function choose(answer: (asked: Asked) => unknown) {
    enter(WRITER)
    const asked = serve({
      'POST /reference-imports': answer,
      'GET /imports/i': answer,
      'DELETE /imports/i': answer,
    })
    const { wrapper } = await mounted(ReferenceImport, { open: false })
    await wrapper.setProps({ open: true })
    await flushPromises()
    const input = document.querySelector<HTMLInputElement>('[data-test=reference-file]')!
    Object.defineProperty(input, 'files', { value: [new File(['TY  - JOUR'], 'x.ris')], configurable: true })
    input.dispatchEvent(new Event('change'))
    await eventually(() => expect(asked.length).toBeGreaterThan(0))
    await flushPromises()
    return { asked, find: <T extends HTMLElement>(css: string) => document.querySelector<T>(css)! }
  }

  it('shows what may be here first, and adds it only when ticked', async () => {
    const file = {
      format: 'ris',
      added: 1,
      references: [brought(0, 'new'), brought(1, 'known', 'X'), brought(2, 'similar', 'Quellan 2018: Title')],
    }
    const { asked, find } = await choose(() => importView('done', { reference_file: file }))
    await eventually(() =>
      expect(find('[data-test=import-summary]').textContent).toContain(
        'RIS: 1 new, 1 already in the catalogue, 1 possible duplicates',
      ),
    )
    expect(document.querySelector('tbody tr')?.textContent).toContain('Similar to Quellan 2018: Title')
    expect(find('[data-test=bring-references]').textContent).toContain('Add 1 reference')
    find<HTMLInputElement>('tbody input[type=checkbox]').click()
    await flushPromises()
    expect(find('[data-test=bring-references]').textContent).toContain('Add 2 references')
    find('[data-test=bring-references]').click()
    await eventually(() => expect(asked).toHaveLength(2))
    expect(asked.map((one) => one.path)).toEqual([
      '/reference-imports?preview=true&name=x.ris',
      '/reference-imports?preview=false&add=2&name=x.ris',
    ])
    expect(asked[1]?.body).toBe('TY  - JOUR')
  })

  it('names every fault and brings nothing in', async () => {
    const fault = {
      field: 'entries[3].doi',
      code: 'invalid',
      value: '12',
      message: 'No DOI.',
      remedy: 'Look.',
    }
    const { find } = await choose(() => importView('refused', { faults: [fault], fault_count: 1200 }))
    await eventually(() => expect(find('[data-test=import-faults]').textContent).toContain('entries[3].doi'))
    expect(find('[data-test=import-failure]').textContent).toMatch(/1\D?200/)
    expect(document.querySelector('[data-test=bring-references]')).toBeNull()
  })
})
