import { describe, expect, it } from 'vitest'

import { atAddress } from './atAddress.setup'
import { choice, useListPage } from './useListPage'

const use = () =>
  useListPage({
    choices: { order: choice({ added: 'Added', year: 'Year' }, 'added'), kind: choice({ a: 'A', b: 'B' }) },
    flags: ['next'],
    size: 50,
  })

describe('what a list is asked for', () => {
  it('begins again at the first page whatever changes, and leaves the question alone', async () => {
    const { used: list, query } = await atAddress(use, '/list?region=hip&page=3')
    expect(list.window.value).toEqual({ offset: 100, limit: 50 })
    await list.choose({ kind: 'b', order: 'year' })
    expect(query()).toEqual({ region: 'hip', kind: 'b', order: 'year' })
    await list.setPage(1)
    await list.turn('next', true)
    expect(query()).toEqual({ region: 'hip', kind: 'b', order: 'year', next: 'true' })
    await list.setPage(4)
    await list.setSearch(' tap ')
    expect([list.search.value, list.page.value, list.on.value.next]).toEqual(['tap', 0, true])
  })

  it('leaves out what is usual, takes choices back one by one or together', async () => {
    const { used: list, query } = await atAddress(use, '/list?kind=a&next=true&order=year&search=x')
    await list.choose({ order: 'added' })
    expect(query()).toEqual({ kind: 'a', next: 'true', search: 'x' })
    await list.choose({ kind: null })
    expect(list.chosen.value).toEqual({ order: 'added', kind: undefined })
    await list.clear('kind', 'next')
    expect(query()).toEqual({})
  })

  it.each(['size', 'toString', '__proto__', ''])('passes over a name it does not know: %s', async (name) => {
    const odd = { order: name, kind: name, next: name, page: name }
    const { used: list } = await atAddress(use, { path: '/list', query: odd })
    expect(list.chosen.value).toEqual({ order: 'added', kind: undefined })
    expect([list.on.value.next, list.page.value]).toEqual([false, 0])
  })
})
