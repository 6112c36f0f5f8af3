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
  supported,
  whole,
} from './format'
import vectors from './format.vectors.json'

/** The narrow no-break space is written as `_` here. */
const plain = (text: string) => text.replaceAll('\u202f', '_')
const share = (estimate: number, lower: number, upper: number) => ({ estimate, lower, upper })
const lr = (estimate: Ratio, lower: Ratio, upper: Ratio): RatioEstimate => ({ estimate, lower, upper })

describe('percent', () => {
  it.each(vectors.percent as [number, string][])('writes %d as %s', (value, expected) =>
    expect(plain(percent(value))).toBe(expected),
  )

  it('never rounds an uncertain value to certainty', () => {
    for (let p = 0.0001; p < 1; p += 0.0007) {
      expect(percent(p)).not.toMatch(/^(0|100)\s?%/)
      expect(percent(p)).not.toMatch(/^(0\.0|100\.0)/)
    }
  })
})

describe('intervals of a probability', () => {
  type Row = [number, number, number, string]
  it.each(vectors.percent_interval as Row[])(
    'are whole when wide, finer when narrow, and never a false 0 or 100: %d (%d to %d) is %s',
    (...row) => expect(plain(percentInterval(share(row[0], row[1], row[2])))).toBe(row[3]),
  )
  it.each(vectors.percent_point as Row[])(
    'show the supported bound instead of a point of 0 or 1: %d (%d to %d) is %s',
    (...row) => expect(plain(percentPoint(share(row[0], row[1], row[2])))).toBe(row[3]),
  )
})

describe('ratio', () => {
  it.each(vectors.ratio as [Ratio, string][])('writes %s as %s', (value, expected) =>
    expect(plain(ratio(value))).toBe(expected),
  )
  it.each(vectors.ratio_point as [Ratio, Ratio, Ratio, string][])(
    'shows the bound that the data support when the point is not finite: %s (%s to %s) is %s',
    (...row) => expect(plain(ratioPoint(lr(row[0], row[1], row[2])))).toBe(row[3]),
  )
  it('gives both bounds', () => expect(ratioInterval(lr('infinity', 2.53, 'infinity'))).toBe('2.5–∞'))
})

describe('whole numbers and levels', () => {
  it('groups digits and keeps levels short', () => {
    expect(plain(whole(1005))).toBe('1_005')
    expect(whole(12)).toBe('12')
    expect(plain(levelPercent(0.95))).toBe('95_%')
    expect(plain(levelPercent(0.999))).toBe('99.9_%')
  })
})

describe('what the data support', () => {
  it('is the bound where a point rests on an empty cell', () => {
    expect([share(1, 0.46, 1), share(0, 0, 0.2), share(0.3, 0.2, 0.4)].map(supported)).toEqual([
      0.46, 0.2, 0.3,
    ])
  })
})
