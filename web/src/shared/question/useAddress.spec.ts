import { flushPromises } from '@vue/test-utils'
import { beforeEach, describe, expect, it } from 'vitest'
import { defineComponent, h } from 'vue'

import { enter, mounted, serve } from '@/shared/mount.setup'
import SheetLink from './SheetLink.vue'
import { useAddress } from './useAddress'

type Address = ReturnType<typeof useAddress>

async function page(query: Record<string, string | string[]>) {
  enter(['read'])
  serve({ 'GET /regions': [{ region: 'neck', tests: 1 }], 'GET /conditions': [] })
  const used: Address[] = []
  const Part = defineComponent(() => {
    used.push(useAddress())
    return () => h(SheetLink, { test: 'a', hash: '#result-1' }, () => 'Sheet')
  })
  const Two = defineComponent(() => () => [h(Part), h(Part)])
  const { wrapper, router } = await mounted(Two, {}, {}, query)
  const [one, other] = used as [Address, Address]
  return { wrapper, router, one, other, query: () => router.currentRoute.value.query }
}

describe('the address', () => {
  beforeEach(() => (document.body.innerHTML = ''))

  it('follows what was chosen, which counts at once and everywhere', async () => {
    const { one, other, query } = await page({ region: 'neck', off: ['x', 'y'], by: '' })
    expect(one.many('off')).toEqual(['x', 'y'])
    expect([one.one('by'), one.one('never')], 'nothing said').toEqual(['', ''])
    const first = one.change({ off: undefined, look: 'a' })
    expect([other.many('off'), other.one('look')], 'before the address says it').toEqual([[], 'a'])
    expect(query().look).toBeUndefined()
    const second = other.change({ look: 'b', by: 'test' })
    await Promise.all([first, second])
    expect(query(), 'the second starts from the first').toEqual({ region: 'neck', look: 'b', by: 'test' })
  })

  it('says what it leads to when somebody leaves in the middle of a choice', async () => {
    const { one, router, query } = await page({ region: 'neck' })
    const chosen = one.change({ look: 'a' })
    await router.push({ name: 'references', query: { search: 'thumb' } })
    await chosen
    expect([one.one('look'), one.one('search')]).toEqual(['', 'thumb'])
    expect(query()).toEqual({ search: 'thumb' })
  })

  it('is carried along to a sheet, in this window or another one', async () => {
    const { wrapper, router, one } = await page({ region: 'neck', pretest: '30', search: 'thumb' })
    const link = wrapper.get('a')
    expect(link.attributes('href'), 'the question, and no search').toBe(
      '/sheet/a?region=neck&pretest=30#result-1',
    )
    await one.change({ pretest: '40' })
    expect(link.attributes('href')).toContain('pretest=40')
    await link.trigger('click', { ctrlKey: true })
    expect(router.currentRoute.value.name).toBe('catalogue')
    await link.trigger('click')
    await flushPromises()
    expect(router.currentRoute.value.fullPath).toBe('/sheet/a?region=neck&pretest=40#result-1')
  })
})
