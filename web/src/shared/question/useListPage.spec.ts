import { createApp } from 'vue'
import { createMemoryHistory, createRouter, type Router } from 'vue-router'
import { beforeEach, describe, expect, it } from 'vitest'

import { choice, useListPage } from './useListPage'

function listAt(router: Router) {
  let list!: ReturnType<typeof make>
  const make = () =>
    useListPage({
      choices: { order: choice({ added: 'Added', year: 'Year' }, 'added'), kind: choice({ a: 'A', b: 'B' }) },
      flags: ['next'],
      size: 50,
    })
  const app = createApp({
    setup() {
      list = make()
      return () => null
    },
  })
  app.use(router).mount(document.createElement('div'))
  return list
}

let router: Router
const query = () => router.currentRoute.value.query
beforeEach(() => {
  router = createRouter({
    history: createMemoryHistory(),
    routes: [{ path: '/:rest(.*)*', component: { render: () => null } }],
  })
})

describe('what a list is asked for', () => {
  it('begins again at the first page whatever changes, and leaves the question alone', async () => {
    await router.push('/list?region=hip&page=3')
    const list = listAt(router)
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
    await router.push('/list?kind=a&next=true&order=year&search=x')
    const list = listAt(router)
    await list.choose({ order: 'added' })
    expect(query()).toEqual({ kind: 'a', next: 'true', search: 'x' })
    await list.choose({ kind: null })
    expect(list.chosen.value).toEqual({ order: 'added', kind: undefined })
    await list.clear('kind', 'next')
    expect(query()).toEqual({})
  })

  it.each(['size', 'toString', '__proto__', ''])('passes over a name it does not know: %s', async (name) => {
    await router.push({ path: '/list', query: { order: name, kind: name, next: name, page: name } })
    const list = listAt(router)
    expect(list.chosen.value).toEqual({ order: 'added', kind: undefined })
    expect([list.on.value.next, list.page.value]).toEqual([false, 0])
  })
})
