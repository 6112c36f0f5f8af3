import { enableAutoUnmount, mount } from '@vue/test-utils'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'

import { vuetify } from '@/shared/theme'
import HoldTimer from './HoldTimer.vue'

enableAutoUnmount(afterEach)

describe('the hold timer', () => {
  beforeEach(() => void vi.useFakeTimers())
  afterEach(() => void vi.useRealTimers())

  const timer = (hold: number | null) => mount(HoldTimer, { props: { hold }, global: { plugins: [vuetify] } })
  const begin = async (of: ReturnType<typeof timer>) => {
    await of.get('[data-test=timer-start]').trigger('click')
    expect(of.text()).toContain('Starts in 3')
    // The hands are being laid on.
    await vi.advanceTimersByTimeAsync(3000)
  }

  it('gives time to lay the hands on, counts, and ends by itself when the hold is over', async () => {
    const of = timer(5)
    expect(of.text()).toContain('hold 5 s')
    await begin(of)
    await vi.advanceTimersByTimeAsync(2500)
    expect(of.get('[role=timer]').text()).toBe('2 s')
    expect(of.emitted('held')).toBeUndefined()
    await vi.advanceTimersByTimeAsync(3000)
    const [seconds, pain] = of.emitted('held')![0] as [number, boolean]
    expect(seconds).toBeCloseTo(5, 0)
    expect(pain).toBe(false)
    expect(of.find('[data-test=timer-start]').exists()).toBe(true)
  })

  it('is ended by pain with its second, and by hand where no sheet says how long', async () => {
    const of = timer(null)
    await begin(of)
    await vi.advanceTimersByTimeAsync(12_000)
    await of.get('[data-test=timer-pain]').trigger('click')
    await begin(of)
    await vi.advanceTimersByTimeAsync(40_000)
    await of.get('[data-test=timer-end]').trigger('click')
    const ends = of.emitted('held') as [number, boolean][]
    expect(ends.map(([seconds, pain]) => [Math.round(seconds), pain])).toEqual([
      [12, true],
      [40, false],
    ])
  })

  it('notes nothing when it is ended before the hands lie, and follows a foot switch', async () => {
    const of = timer(5)
    const press = () => (of.vm as unknown as { press: () => void }).press()
    press()
    await vi.advanceTimersByTimeAsync(1000)
    press()
    expect(of.emitted('held')).toBeUndefined()
    press()
    await vi.advanceTimersByTimeAsync(4000)
    ;(of.vm as unknown as { pain: () => void }).pain()
    expect((of.emitted('held')![0] as [number, boolean])[1]).toBe(true)
  })
})
