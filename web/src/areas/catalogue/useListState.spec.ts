import { createApp, nextTick } from 'vue'
import { createMemoryHistory, createRouter, type Router } from 'vue-router'
import { beforeEach, describe, expect, it } from 'vitest'

import { useListState } from './useListState'

/** Runs the composable inside a mounted component, as a page does. */
function mounted(router: Router) {
  let state!: ReturnType<typeof useListState>
  const app = createApp({
    setup() {
      state = useListState()
      return () => null
    },
  })
  app.use(router).mount(document.createElement('div'))
  return state
}

let router: Router
beforeEach(async () => {
  router = createRouter({
    history: createMemoryHistory(),
    routes: [{ path: '/:rest(.*)*', component: { render: () => null } }],
  })
  await router.push('/catalogue?region=hip&pretest=20')
})

describe('search and order of the list', () => {
  it('live in the address and leave the question alone', async () => {
    const list = mounted(router)
    await list.setSearch('  tap ')
    await list.setSort('name')
    await list.setReverse(true)
    expect(router.currentRoute.value.query).toEqual({
      region: 'hip',
      pretest: '20',
      search: 'tap',
      sort: 'name',
      reverse: 'true',
    })
    expect([list.search.value, list.sort.value, list.reverse.value]).toEqual(['tap', 'name', true])
  })

  it('keep the address short: what is usual is left out', async () => {
    const list = mounted(router)
    await list.setSearch('x')
    await list.setSearch('   ')
    await list.setSort('lr_positive')
    await list.setReverse(false)
    expect(router.currentRoute.value.query).toEqual({ region: 'hip', pretest: '20' })
  })

  it('fall back to the usual order for an unknown one', async () => {
    const list = mounted(router)
    await router.push('/catalogue?sort=size&reverse=maybe')
    await nextTick()
    expect([list.sort.value, list.reverse.value, list.search.value]).toEqual(['lr_positive', false, ''])
  })

  it('follow the back button', async () => {
    const list = mounted(router)
    await router.push('/catalogue?search=one')
    await router.push('/catalogue?search=two')
    expect(list.search.value).toBe('two')
    router.back()
    await new Promise((done) => setTimeout(done, 20))
    expect(list.search.value).toBe('one')
  })
})
