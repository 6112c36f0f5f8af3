import { flushPromises } from '@vue/test-utils'
import { beforeEach, describe, expect, it } from 'vitest'

import { queryClient } from '@/shared/api/queries'
import { enter, eventually, mounted, problem, serve } from '@/shared/mount.setup'
import PastImports from './PastImports.vue'

const none = {
  tests: 0,
  studies: 0,
  results: 0,
  agreements: 0,
  references: 0,
  conditions: 0,
  structures: 0,
  changed: 0,
}
const row = (id: string, more: object = {}) => ({
  id,
  kind: 'table',
  name: `${id}.csv`,
  by: 'A. Author',
  at: '2026-11-30T09:00:00Z',
  brought: { ...none, studies: 1, results: 2 },
  taken_back_at: null,
  taken_back_by: null,
  may_take_back: true,
  ...more,
})

async function list(rows: object[], answer: unknown = () => new Response(null, { status: 204 })) {
  enter(['read', 'read_drafts', 'write_studies'])
  const asked = serve({ 'GET /imports': () => rows, 'POST /imports/a/taking-back': answer })
  const { wrapper } = await mounted(PastImports)
  await flushPromises()
  const shown = () => wrapper.findAll('[data-test=past-import]').map((one) => one.text())
  const dialog = (test: string) => document.querySelector<HTMLElement>(`[data-test=${test}]`)
  const undo = async () => {
    await wrapper.get('[data-test=take-back]').trigger('click')
    await eventually(() => expect(dialog('take-back-now')).toBeTruthy())
    dialog('take-back-now')!.click()
    await flushPromises()
    await flushPromises()
  }
  return { wrapper, asked, shown, dialog, undo }
}

describe('imports that landed', () => {
  beforeEach(() => {
    document.body.innerHTML = ''
    queryClient.clear()
  })

  it('say who brought what and when, and who undid it', async () => {
    const { wrapper, shown } = await list([
      row('a', { kind: 'bundle', name: '', by: null, brought: { ...none, tests: 3, changed: 1 } }),
      row('b', {
        taken_back_at: '2026-11-30T10:00:00Z',
        taken_back_by: 'B. Reader',
        may_take_back: false,
      }),
    ])
    expect(shown()[0]).toContain('Bundle')
    expect(shown()[0]).toContain('3 tests, 1 changed')
    expect(shown()[0]).toContain('the installation')
    expect(shown()[1]).toContain('b.csv')
    expect(shown()[1]).toContain('1 study, 2 results')
    expect(shown()[1]).toContain('undone by B. Reader')
    expect(wrapper.findAll('[data-test=take-back]')).toHaveLength(1)
  })

  it('are undone as one once that was confirmed', async () => {
    const rows = [row('a')]
    const { asked, dialog, undo } = await list(rows)
    await undo()
    expect(asked.filter((one) => one.method === 'POST')).toHaveLength(1)
    await eventually(() => expect(dialog('take-back-now')).toBeFalsy())
  })

  it('stay with every reason where something was built on them', async () => {
    const reasons = [
      {
        field: 'import',
        code: 'invalid' as const,
        value: 'Thumb lift',
        message: 'It was changed since. (by A. Author)',
        remedy: 'Correct it one by one.',
      },
    ]
    const { dialog, undo } = await list([row('a')], () => problem(422, 'fields_invalid', reasons))
    await undo()
    await eventually(() => expect(dialog('take-back-refused')?.textContent).toContain('cannot be undone'))
    expect(document.body.textContent).toContain('Thumb lift: It was changed since. (by A. Author)')
    expect(dialog('take-back-now')!.hasAttribute('disabled'), 'asking again would change nothing').toBe(true)
  })

  it('show the newest ten first', async () => {
    const { wrapper, shown } = await list(Array.from({ length: 12 }, (_, at) => row(`n${at}`)))
    expect(shown()).toHaveLength(10)
    await wrapper.findAll('button').at(-1)!.trigger('click')
    expect(shown()).toHaveLength(12)
  })
})
