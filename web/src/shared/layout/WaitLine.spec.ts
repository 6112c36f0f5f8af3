import { mount } from '@vue/test-utils'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'

import WaitLine from './WaitLine.vue'

describe('the line of waiting', () => {
  beforeEach(() => vi.useFakeTimers())
  afterEach(() => vi.useRealTimers())

  it('is shown only for what takes a while, and goes with the answer', async () => {
    const line = mount(WaitLine, { props: { active: true } })
    const shown = () => line.find('progress').exists()
    await vi.advanceTimersByTimeAsync(100)
    expect(shown()).toBe(false)
    await line.setProps({ active: false })
    await vi.advanceTimersByTimeAsync(500)
    expect(shown(), 'answered at once').toBe(false)
    await line.setProps({ active: true })
    await vi.advanceTimersByTimeAsync(200)
    expect(line.get('progress').attributes('aria-label')).toBe('Loading')
    await line.setProps({ active: false })
    expect(shown()).toBe(false)
  })
})
