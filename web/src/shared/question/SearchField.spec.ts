import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { nextTick, ref, computed } from 'vue'

import { mounted } from '@/shared/mount.setup'
import SearchField from './SearchField.vue'

describe('the search of a list', () => {
  beforeEach(() => vi.useFakeTimers())
  afterEach(() => vi.useRealTimers())

  async function field() {
    const said = ref('')
    const setSearch = vi.fn((value: string) => (said.value = value))
    const list = { search: computed(() => said.value), setSearch }
    const { wrapper } = await mounted(SearchField, { list, label: 'Search', test: 'search' })
    return { wrapper, said, setSearch, input: wrapper.get('input') }
  }

  it('asks once typing rests, and not again for what the address says already', async () => {
    const { input, said, setSearch } = await field()
    await input.setValue('ta')
    await input.setValue(' tap ')
    await vi.advanceTimersByTimeAsync(200)
    expect(setSearch.mock.calls).toEqual([['tap']])
    said.value = 'before'
    await nextTick()
    await vi.advanceTimersByTimeAsync(200)
    expect([input.element.value, setSearch.mock.calls.length]).toEqual(['before', 1])
  })

  it('says nothing any more once the page is left', async () => {
    const { input, wrapper, setSearch } = await field()
    await input.setValue('tap')
    wrapper.unmount()
    await vi.advanceTimersByTimeAsync(200)
    expect(setSearch).not.toHaveBeenCalled()
  })
})
