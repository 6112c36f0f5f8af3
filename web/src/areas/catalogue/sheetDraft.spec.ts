import { describe, expect, it } from 'vitest'

import type { TestView } from '@/shared/api/types'
import { blankSheet, sheetInput } from './sheetDraft'

const stored: TestView = {
  id: 'a',
  version: 4,
  sample: true,
  name: 'Thumb lift',
  aliases: ['Lift'],
  region: 'hand_wrist',
  purpose: 'strength',
  condition: 'Thumb weakness',
  target_structures: [],
  patient_position: 'Sitting',
  steps: ['One', 'Two'],
  positive_finding: 'Weaker',
  cautions: [],
  pitfalls: [],
}

describe('the editable part of a sheet', () => {
  it('leaves out what the server owns', () => {
    const input = sheetInput(stored)
    expect(Object.keys(input).sort()).toEqual(Object.keys(blankSheet('', '')).sort())
    expect(input).not.toHaveProperty('version')
    expect(input).not.toHaveProperty('sample')
  })

  it('is a copy: editing it never changes what was read', () => {
    const input = sheetInput(stored)
    input.steps.push('Three')
    input.name = 'Other'
    expect(stored.steps).toEqual(['One', 'Two'])
    expect(stored.name).toBe('Thumb lift')
  })

  it('starts a new sheet in the region and for the condition of the question', () => {
    const blank = blankSheet('knee', 'Sample condition')
    expect([blank.region, blank.condition, blank.name]).toEqual(['knee', 'Sample condition', ''])
  })
})
