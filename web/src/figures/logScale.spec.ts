import { describe, expect, it } from 'vitest'

import type { Ratio, RatioEstimate } from '@/shared/api/types'
import { LABEL_ROOM, ladderScale } from './logScale'

const lr = (estimate: Ratio, lower: Ratio, upper: Ratio): RatioEstimate => ({ estimate, lower, upper })
const WIDTH = 600

describe('ladderScale', () => {
  it('spans 0.1 to 10 with 1 in the middle when nothing asks for more', () => {
    const { scale, ticks } = ladderScale([lr(3, 2, 4), lr(0.4, 0.3, 0.5)], WIDTH)
    expect(scale(1)).toBeCloseTo(WIDTH / 2)
    expect(ticks).toEqual([0.1, 0.2, 0.5, 1, 2, 5, 10])
  })

  it('widens for an interval beyond it, up to a limit, whatever the data hold', () => {
    const { ticks, high } = ladderScale([lr(14, 9, 22)], WIDTH)
    expect(ticks).toContain(20)
    expect(high).toBeGreaterThan(22)
    const nasty = ladderScale([lr('infinity', 3, 'infinity'), lr(0, 0, 0), lr(500, 1e-9, 1e9)], WIDTH)
    expect([nasty.low, nasty.high]).toEqual([0.02, 50])
    for (const value of [1e-12, 0.02, 1, 50, 1e12]) {
      const x = nasty.scale(value)
      expect(x).toBeGreaterThanOrEqual(LABEL_ROOM)
      expect(x).toBeLessThanOrEqual(WIDTH - LABEL_ROOM)
    }
  })

  it('is monotone and even about 1', () => {
    const { scale } = ladderScale([], WIDTH)
    expect(scale(2) - scale(1)).toBeCloseTo(scale(1) - scale(0.5))
    expect(scale(5)).toBeGreaterThan(scale(2))
  })
})
