import { flushPromises } from '@vue/test-utils'
import { beforeEach, describe, expect, it } from 'vitest'

import { blankSheet } from '@/areas/catalogue/sheetDraft'
import { enter, mounted, problem, serve } from '@/shared/mount.setup'
import { undoBar } from '@/shared/undo'
import HistoryPage from './HistoryPage.vue'

const sheet = (positive_finding: string) => ({
  ...blankSheet('hand_wrist', 'Weakness'),
  name: 'Thumb lift',
  positive_finding,
  other_conditions: [],
})
const revision = (version: number, action: string, finding: string, by: string | null = 'M. Keller') => ({
  version,
  action,
  comment: action === 'submit' ? 'please look' : '',
  by,
  at: '2026-11-25T09:00:00Z',
  sheet: sheet(finding),
})
const test = { ...sheet('Gives way'), id: 'a', version: 3, status: 'draft', next_steps: [], sample: false }

async function page(answer: unknown, rights?: Parameters<typeof enter>[0]) {
  enter(rights)
  const asked = serve({
    'GET /regions': [],
    'GET /conditions': [],
    'GET /tests/a': test,
    'GET /tests/a/history': [
      revision(3, 'edited', 'Gives way'),
      revision(2, 'submit', 'Weaker'),
      revision(1, 'created', 'Weaker', null),
    ],
    'POST /tests/a/restore': () => answer,
  })
  const { wrapper, router } = await mounted(HistoryPage, { id: 'a' })
  await flushPromises()
  return { wrapper, router, asked }
}

describe('the history of a sheet', () => {
  beforeEach(() => (document.body.innerHTML = ''))

  it('says who did what and why, with the text before and after', async () => {
    const { wrapper } = await page(test)
    const entries = wrapper.findAll('[data-test=version]').map((entry) => entry.text())
    expect(entries).toHaveLength(3)
    expect(entries[0]).toContain('Changed')
    expect(entries[0]).toContain('M. Keller')
    expect(entries[0]).toMatch(/before\s*Weaker[\s\S]*after\s*Gives way/)
    expect(entries[1]).toContain('“please look”')
    expect(entries[1]).not.toContain('before')
    expect(entries[2]).toContain('Written')
  })

  it('brings an earlier text back at the version that is shown', async () => {
    const { wrapper, router, asked } = await page(test)
    expect(wrapper.find('[data-test=restore-3]').exists()).toBe(false)
    await wrapper.get('[data-test=restore-1]').trigger('click')
    await flushPromises()
    await flushPromises()
    const sent = asked.find((one) => one.method === 'POST')
    expect([sent?.headers.get('If-Match'), sent?.body]).toEqual(['"3"', { version: 1 }])
    expect(undoBar.message).toBe('Version 1 was restored as a draft.')
    expect(router.currentRoute.value.name).toBe('sheet')
  })

  it('stays and says so when somebody else was faster', async () => {
    const { wrapper, router } = await page(problem(412, 'changed_meanwhile'))
    await wrapper.get('[data-test=restore-2]').trigger('click')
    await flushPromises()
    await flushPromises()
    expect(wrapper.get('[role=alert]').text()).toContain('changed_meanwhile')
    expect(router.currentRoute.value.name).toBe('catalogue')
  })

  it('offers nothing to bring back to who may only read', async () => {
    const { wrapper } = await page(test, ['read', 'read_drafts'])
    expect(wrapper.findAll('[data-test^=restore]')).toHaveLength(0)
  })
})
