import { flushPromises } from '@vue/test-utils'
import { beforeEach, describe, expect, it } from 'vitest'

import { enter, eventually, importView, mounted, serve } from '@/shared/mount.setup'
import ExchangePage from './ExchangePage.vue'

const preview = {
  title: 'Thumb module',
  sample: true,
  conditions: 0,
  structures: 0,
  references: 2,
  tests: [
    { name: 'Thumb lift', fate: 'new', written: true, results: 2, known_results: 0, agreements: 1 },
    { name: 'Thumb press', fate: 'changed', written: false, results: 0, known_results: 1, agreements: 0 },
    { name: 'Pinch', fate: 'same', written: false, results: 0, known_results: 0, agreements: 0 },
  ],
}

const seen = importView('done', { bundle: preview })

async function page(answer: (path: string) => unknown, rights?: Parameters<typeof enter>[0]) {
  enter(rights)
  const asked = serve({
    'GET /regions': [],
    'GET /conditions': [],
    'POST /bundle-imports': ({ path }: { path: string }) => answer(path),
    'GET /imports/i': () => answer('/imports/i'),
    'DELETE /imports/i': importView('stopped'),
  })
  const { wrapper } = await mounted(ExchangePage)
  const choose = async () => {
    const input = wrapper.get<HTMLInputElement>('[data-test=bundle-file]')
    const file = new File(['{"format":"pruvex-bundle"}'], 'thumb.json', { type: 'application/json' })
    Object.defineProperty(input.element, 'files', { value: [file], configurable: true })
    await input.trigger('change')
    await flushPromises()
    await flushPromises()
  }
  const sent = () => asked.filter((one) => one.method === 'POST').map((one) => one.path)
  return { wrapper, choose, sent, asked }
}

describe('bringing a bundle in', () => {
  beforeEach(() => (document.body.innerHTML = ''))

  it('shows first what it would do, and keeps what is here unless it is ticked', async () => {
    const { wrapper, choose, sent, asked } = await page(() => seen)
    await choose()
    expect(sent()).toEqual(['/bundle-imports?preview=true&name=thumb.json'])
    expect(asked.at(-1)?.body).toEqual({ format: 'pruvex-bundle' })
    expect(wrapper.get('[data-test=bundle-summary]').text()).toBe(
      '1 new, 1 different, 1 identical, 2 new references',
    )
    const rows = wrapper.findAll('[data-test=bundle-preview] tbody tr').map((row) => row.text())
    expect(rows[0], 'what needs a decision stands first').toContain('1 result already in the catalogue')
    expect(rows[1]).toContain('2 new results')
    await wrapper.get('[data-test=bring-in]').trigger('click')
    await flushPromises()
    expect(sent().at(-1)).toBe('/bundle-imports?changed=keep&name=thumb.json')
    expect(wrapper.find('[data-test=bundle-preview]').exists()).toBe(false)
  })

  it('replaces only the tests that were ticked', async () => {
    const { wrapper, choose, sent } = await page(() => seen)
    await choose()
    await wrapper.get('input[aria-label="Replace Thumb press"]').setValue(true)
    await wrapper.get('[data-test=bring-in]').trigger('click')
    await flushPromises()
    expect(sent().at(-1)).toBe('/bundle-imports?replace=Thumb%20press&name=thumb.json')
  })

  it('names every fault with its place, and offers nothing to bring in', async () => {
    const fault = {
      field: 'tests[0].sheet.name',
      code: 'missing' as const,
      value: '',
      message: 'Empty.',
      remedy: 'Name it.',
    }
    const faults = [fault, { ...fault, field: 'title' }]
    const { wrapper, choose } = await page(() => importView('refused', { faults, fault_count: 2 }))
    await choose()
    expect(wrapper.get('[data-test=bundle-failure]').text()).toContain('2 errors in the file')
    expect(wrapper.get('[data-test=bundle-faults]').text()).toContain('tests[0].sheet.name')
    expect(wrapper.find('[data-test=bring-in]').exists()).toBe(false)
  })

  it('says how far a long one is, and stops it', async () => {
    const { wrapper, choose } = await page(() =>
      importView('busy', { phase: 'writing', done: 500, of: 7000 }),
    )
    void choose()
    await eventually(() =>
      expect(wrapper.get('[data-test=import-progress]').text()).toMatch(
        /Preparing the preview: 500 of 7.000/,
      ),
    )
    await wrapper.get('[data-test=stop-import]').trigger('click')
    await eventually(() =>
      expect(wrapper.get('[data-test=bundle-failure]').text()).toContain('Nothing was changed'),
    )
    expect(wrapper.find('[data-test=bring-in]').exists()).toBe(false)
  })

  it('is not offered to who may only read', async () => {
    const { wrapper } = await page(() => seen, ['read', 'read_drafts'])
    expect(wrapper.find('[data-test=bundle-file]').exists()).toBe(false)
    expect(wrapper.get('[data-test=export-region]').attributes('href')).toContain('/api/v1/bundle?region=')
  })
})
