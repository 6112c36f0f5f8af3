import { beforeEach, describe, expect, it } from 'vitest'

import type { TeachingConflictView } from '@/shared/api/types'
import { enter, eventually, mounted, problem, serve } from '@/shared/mount.setup'
import ConflictsPage from './ConflictsPage.vue'

const entry = (id: string, more: Partial<TeachingConflictView> = {}): TeachingConflictView => ({
  id,
  version: 2,
  sample: true,
  region: 'neck',
  tests: ['a'],
  named_tests: [{ id: 'a', name: 'Neck turn' }],
  topic: 'angle',
  question: `How far, ${id}?`,
  claims: [
    { claim: '20 degrees', source: 'School A', evidence: 'One study' },
    { claim: '30 degrees', source: 'School B', evidence: '' },
  ],
  verdict: 'open',
  favours: null,
  reason: '',
  ...more,
})
const decided = entry('y', { verdict: 'favours', favours: 1, reason: 'Measured.' })

async function page(answers: Record<string, unknown> = {}, query = {}) {
  enter(['read', 'read_drafts', 'write_sheets'])
  const asked = serve({
    'GET /regions': [{ region: 'neck', tests: 1 }],
    'GET /conditions': [],
    'GET /tests': [{ id: 'a', name: 'Neck turn' }],
    'GET /teaching-conflicts': [entry('x'), decided],
    ...answers,
  })
  const found = await mounted(ConflictsPage, {}, {}, { region: 'neck', ...query }, 'conflicts')
  await eventually(() =>
    expect(found.wrapper.findAll('[data-test=conflict-entry]').length).toBeGreaterThan(0),
  )
  const dialog = () => document.querySelector('[data-test=conflict-dialog]')
  const sent = () => asked.filter((one) => !['GET'].includes(one.method))
  return { ...found, asked, dialog, sent }
}

describe('the register of conflicting teaching', () => {
  beforeEach(() => (document.body.innerHTML = ''))

  it('shows every claim with its source, and which is taught', async () => {
    const { wrapper } = await page()
    const [open, taught] = wrapper.findAll('[data-test=conflict-entry]').map((it) => it.text())
    expect(open).toContain('Open: no verdict yet')
    expect(open).toMatch(/20 degrees\s*School A · One study/)
    expect(taught).toMatch(/Taught here:\s*30 degrees/)
    expect(taught).toContain('Reason: Measured.')
  })

  it('keeps the filter in the address', async () => {
    const { wrapper } = await page({}, { verdict: 'favours' })
    expect(wrapper.findAll('[data-test=conflict-entry]')).toHaveLength(1)
    expect(wrapper.text()).toContain('How far, y?')
  })

  it('begins an entry with what a check found, and says what is missing', async () => {
    const fault = {
      field: 'claims[1].source',
      code: 'missing',
      message: 'Empty.',
      remedy: 'Say by whom.',
      value: '',
    }
    const { router, dialog, sent } = await page(
      { 'POST /teaching-conflicts': () => problem(422, 'invalid', [fault as never]) },
      { file: 'a', found: 'Two turns load the same structure.' },
    )
    await eventually(() => expect(dialog()).not.toBeNull())
    await eventually(() => expect(router.currentRoute.value.query.file).toBeUndefined())
    dialog()!.querySelector('form')!.dispatchEvent(new Event('submit'))
    await eventually(() => expect(dialog()!.textContent).toContain('Empty. Say by whom.'))
    expect(sent()[0]!.body).toMatchObject({
      region: 'neck',
      tests: ['a'],
      question: 'Two turns load the same structure.',
      verdict: 'open',
      claims: [{ claim: '' }, { claim: '' }],
    })
  })

  it('deletes an entry and offers it back', async () => {
    const { wrapper, sent } = await page({
      'DELETE /teaching-conflicts/x': entry('x', { version: 3 }),
      'POST /teaching-conflicts/x/restore': entry('x', { version: 4 }),
    })
    await wrapper.findAll('[data-test=conflict-entry]')[0]!.findAll('button')[1]!.trigger('click')
    await eventually(() => expect(sent()).toHaveLength(1))
    const { undoBar } = await import('@/shared/undo')
    await eventually(() => expect(undoBar.action).not.toBeNull())
    await undoBar.action?.()
    expect(sent().map((one) => `${one.method} ${one.headers.get('If-Match')}`)).toEqual([
      'DELETE "2"',
      'POST "3"',
    ])
  })
})
