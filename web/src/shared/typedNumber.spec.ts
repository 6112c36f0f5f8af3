import { describe, expect, it } from 'vitest'

import { typedNumber } from './typedNumber'

describe('a typed number', () => {
  it('has a point or a comma, and is told apart from nothing and from words', () => {
    expect([' 0,35 ', '12.5', '−3', '1e2'].map(typedNumber)).toEqual([0.35, 12.5, -3, 100])
    expect(['', '  '].map(typedNumber)).toEqual([null, null])
    expect(['1,2,3', '1.234,5', 'two', '5 %'].map(typedNumber)).toEqual([NaN, NaN, NaN, NaN])
  })
})
