import { describe, expect, it } from 'vitest'

import { probabilityScale, settled } from './probabilityScale'

describe('probabilities by the logarithm of their odds', () => {
  const scale = probabilityScale(600)

  it('make a likelihood ratio equally long wherever it starts', () => {
    const step = (p: number) => scale.at((p * 4) / (p * 4 + 1 - p)) - scale.at(p)
    expect(step(0.02)).toBeCloseTo(step(0.5), 6)
    expect([scale.at(0), scale.at(1)]).toEqual([scale.at(0.002), scale.at(0.998)])
  })

  it('have labels that do not touch, and places that a hand can set', () => {
    for (const width of [300, 520, 900]) {
      const { ticks, at } = probabilityScale(width)
      expect(ticks).toContain(0.5)
      ticks.slice(1).forEach((tick, nth) => expect(at(tick) - at(ticks[nth]!)).toBeGreaterThanOrEqual(30))
    }
    expect(scale.probability(scale.at(0.3))).toBeCloseTo(0.3, 6)
    expect([settled(0.0004), settled(0.0123), settled(0.0712), settled(0.314), settled(0.9999)]).toEqual([
      0.001, 0.012, 0.07, 0.31, 0.999,
    ])
  })
})
