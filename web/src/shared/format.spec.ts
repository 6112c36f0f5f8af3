import { describe, expect, it } from 'vitest'

import type { Ratio, RatioEstimate } from './api/types'
import {
  levelPercent,
  percent,
  percentInterval,
  percentPoint,
  ratio,
  ratioInterval,
  ratioPoint,
  whole,
} from './format'

/** The narrow no-break space is written as `_` here. */
const plain = (text: string) => text.replaceAll('\u202f', '_')
const share = (estimate: number, lower: number, upper: number) => ({ estimate, lower, upper })
const lr = (estimate: Ratio, lower: Ratio, upper: Ratio): RatioEstimate => ({ estimate, lower, upper })

describe('percent', () => {
  it.each([
    [0, '0_%'],
    [0.0004, '<_0.1_%'],
    [0.0123, '1.2_%'],
    [0.0994, '9.9_%'],
    [0.0995, '10_%'],
    [0.35, '35_%'],
    [0.6449, '64_%'],
    [0.9005, '90_%'],
    [0.951, '95.1_%'],
    [0.9989, '99.9_%'],
    [0.99951, '>_99.9_%'],
    [1, '100_%'],
  ])('writes %d as %s', (value, expected) => expect(plain(percent(value))).toBe(expected))

  it('never rounds an uncertain value to certainty', () => {
    for (let p = 0.0001; p < 1; p += 0.0007) {
      expect(percent(p)).not.toMatch(/^(0|100)\s?%/)
      expect(percent(p)).not.toMatch(/^(0\.0|100\.0)/)
    }
  })
})

describe('intervals of a probability', () => {
  it('are whole when wide and finer when narrow', () => {
    expect(plain(percentInterval(share(0.64, 0.5712, 0.6944)))).toBe('57–69_%')
    expect(plain(percentInterval(share(0.84, 0.689, 0.923)))).toBe('69–92_%')
    expect(plain(percentInterval(share(0.06, 0.0461, 0.0812)))).toBe('4.6–8.1_%')
  })
  it('keep a decimal where a whole number would claim 0 or 100', () => {
    expect(plain(percentInterval(share(0.5, 0.0021, 0.9968)))).toBe('0.2–99.7_%')
    expect(plain(percentInterval(share(1, 0.85, 1)))).toBe('85–100_%')
  })
  it('show the supported bound instead of a point of 0 or 1', () => {
    expect(plain(percentPoint(share(1, 0.58, 1)))).toBe('>_58_%')
    expect(plain(percentPoint(share(0, 0, 0.12)))).toBe('<_12_%')
    expect(plain(percentPoint(share(1, 1, 1)))).toBe('100_%')
    expect(plain(percentPoint(share(0.4, 0.3, 0.5)))).toBe('40_%')
  })
})

describe('ratio', () => {
  it.each([
    [0, '0'],
    [0.0004, '<_0.001'],
    [0.0891, '0.089'],
    [0.4, '0.40'],
    [0.996, '1.0'],
    [1, '1.0'],
    [4.567, '4.6'],
    [9.96, '10'],
    [12.3, '12'],
    [99.6, '100'],
    [183.4, '183'],
    [3487, '3_500'],
    [1e9, '>_100_000'],
  ] as [number, string][])('writes %d as %s', (value, expected) => expect(plain(ratio(value))).toBe(expected))

  it('knows infinity', () => expect(ratio('infinity')).toBe('∞'))

  it('shows the bound that the data support when the point is not finite', () => {
    expect(plain(ratioPoint(lr('infinity', 2.53, 'infinity')))).toBe('>_2.5')
    expect(plain(ratioPoint(lr(0, 0, 0.21)))).toBe('<_0.21')
    expect(ratioPoint(lr(3.21, 2.5, 4.1))).toBe('3.2')
    expect(ratioInterval(lr('infinity', 2.53, 'infinity'))).toBe('2.5–∞')
  })
})

describe('whole numbers and levels', () => {
  it('groups digits and keeps levels short', () => {
    expect(plain(whole(1005))).toBe('1_005')
    expect(whole(12)).toBe('12')
    expect(plain(levelPercent(0.95))).toBe('95_%')
    expect(plain(levelPercent(0.999))).toBe('99.9_%')
  })
})
