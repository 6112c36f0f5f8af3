import { flushPromises, mount } from '@vue/test-utils'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { ref } from 'vue'

import { useAutosave } from './useAutosave'

describe('keeping what is typed', () => {
  beforeEach(() => vi.useFakeTimers())
  afterEach(() => vi.useRealTimers())

  it('lets saving wait for what is on its way, and sends nothing beside it', async () => {
    const text = ref('')
    const sent: string[] = []
    let answer: () => void = () => {}
    let keeping!: ReturnType<typeof useAutosave<string>>
    const form = {
      setup() {
        keeping = useAutosave<string>({
          of: text,
          typed: () => text.value,
          send: (typed) => {
            sent.push(typed)
            return new Promise((done) => (answer = done))
          },
        })
        keeping.begin()
        return () => null
      },
    }
    mount(form)
    text.value = 'one'
    await vi.advanceTimersByTimeAsync(1300)
    text.value = 'one two'
    await flushPromises()
    // Saved in the same moment: the first text is still on its way, the second would follow it.
    let rested = false
    void keeping.rest().then(() => (rested = true))
    await vi.advanceTimersByTimeAsync(6000)
    expect([sent, rested]).toEqual([['one'], false])
    answer()
    await flushPromises()
    expect([sent, rested, keeping.pending.value]).toEqual([['one'], true, true])
    keeping.resume()
    await flushPromises()
    expect(sent).toEqual(['one', 'one two'])
    answer()
    await flushPromises()
    expect(keeping.pending.value).toBe(false)
  })
})
