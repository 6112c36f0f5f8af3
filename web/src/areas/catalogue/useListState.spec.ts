import { nextTick } from 'vue'
import { describe, expect, it } from 'vitest'

import { atAddress } from '@/shared/question/atAddress.setup'
import { useListState } from './useListState'

const opened = () => atAddress(useListState, '/catalogue?region=hip&pretest=20')

describe('search and order of the list', () => {
  it('live in the address and leave the question alone', async () => {
    const { used: list, query } = await opened()
    await list.setSearch('  tap ')
    await list.setSort('name')
    await list.setReverse(true)
    expect(query()).toEqual({
      region: 'hip',
      pretest: '20',
      search: 'tap',
      sort: 'name',
      reverse: 'true',
    })
    expect([list.search.value, list.sort.value, list.reverse.value]).toEqual(['tap', 'name', true])
  })

  it('keep the address short: what is usual is left out', async () => {
    const { used: list, query } = await opened()
    await list.setSearch('x')
    await list.setSearch('   ')
    await list.setSort('lr_positive')
    await list.setReverse(false)
    expect(query()).toEqual({ region: 'hip', pretest: '20' })
  })

  it('fall back to the usual order for an unknown one', async () => {
    const { used: list, router } = await opened()
    await router.push('/catalogue?sort=size&reverse=maybe')
    await nextTick()
    expect([list.sort.value, list.reverse.value, list.search.value]).toEqual(['lr_positive', false, ''])
  })

  it('follow the back button', async () => {
    const { used: list, router } = await opened()
    await router.push('/catalogue?search=one')
    await router.push('/catalogue?search=two')
    expect(list.search.value).toBe('two')
    router.back()
    await new Promise((done) => setTimeout(done, 20))
    expect(list.search.value).toBe('one')
  })
})
