import { describe, expect, it } from 'vitest'

import type { TestView } from '@/shared/api/types'
import { blankSheet, duplicate, sheetInput } from './sheetDraft'
import { differences, valueAt, variantDifferences, withValueAt } from './sheetDifferences'
import { sheetFields } from './sheetFields'
import { blank, written } from './sheetValues'

const sheet = {
  ...blankSheet('hand_wrist', 'Thumb weakness'),
  name: 'Thumb lift',
  aliases: ['Lift'],
  purpose: 'strength',
  positive_finding: 'Weaker',
}
const steps = (variant: object, texts: string[]) => ({
  ...variant,
  steps: texts.map((text) => ({ ...blankStep, text })),
})
const variants = sheetFields.find((field) => field.key === 'variants')
if (variants?.kind !== 'list') throw new Error('no variants')
const stepField = variants.fields.find((field) => field.key === 'steps')
if (stepField?.kind !== 'list') throw new Error('no steps')
const blankStep = blank(stepField.fields)
const variant = (name: string, texts: string[]) => steps({ ...blank(variants.fields), name }, texts)
const stored = {
  ...sheet,
  id: 'a',
  version: 4,
  status: 'draft',
  next_steps: ['submit'],
  sample: true,
  variants: [variant('As taught', ['One', 'Two'])],
} as unknown as TestView

describe('the editable part of a sheet', () => {
  it('leaves out what the server owns', () => {
    const input = sheetInput(stored)
    expect(Object.keys(input).sort()).toEqual(Object.keys(blankSheet('', '')).sort())
    for (const owned of ['version', 'status', 'sample', 'id']) expect(input).not.toHaveProperty(owned)
  })

  it('is a copy: editing it never changes what was read', () => {
    const input = sheetInput(stored)
    input.variants[0]?.steps.pop()
    input.name = 'Other'
    expect(stored.variants[0]?.steps).toHaveLength(2)
    expect(stored.name).toBe('Thumb lift')
  })

  it('starts a new sheet in the region and for the condition of the question', () => {
    const fresh = blankSheet('knee', 'Sample condition')
    expect([fresh.region, fresh.condition, fresh.name]).toEqual(['knee', 'Sample condition', ''])
  })

  it('begins another test from a sheet without its names', () => {
    const other = duplicate(stored)
    expect([other.name, other.aliases, other.variants[0]?.name]).toEqual(['', [], 'As taught'])
  })
})

describe('two texts of a sheet', () => {
  it('differ field by field, variants by name', () => {
    const one = sheetInput(stored)
    const other = sheetInput({
      ...stored,
      positive_finding: 'Gives way',
      variants: [variant('As taught', ['One', 'Three'])],
    } as unknown as TestView)
    expect(differences(one, one)).toEqual([])
    expect(differences(one, other)).toEqual([
      {
        path: 'positive_finding',
        label: 'Positive finding, in one sentence',
        one: 'Weaker',
        other: 'Gives way',
      },
      {
        path: 'variants[0].steps',
        label: 'As taught: Steps, in order',
        one: 'Two',
        other: 'Three',
      },
    ])
  })

  it('are merged at a path without touching either', () => {
    const one = sheetInput(stored)
    const other = sheetInput({
      ...stored,
      variants: [variant('As taught', ['Three'])],
    } as unknown as TestView)
    const merged = withValueAt(one, 'variants[0].steps', valueAt(other, 'variants[0].steps'))
    expect(merged.variants[0]?.steps.map((step) => step.text)).toEqual(['Three'])
    expect(one.variants[0]?.steps).toHaveLength(2)
  })

  it('compare two ways of doing a test without their names', () => {
    const found = variantDifferences(variant('One', ['Lift']), variant('Other', ['Press']))
    expect(found.map((entry) => entry.path)).toEqual(['steps'])
  })
})

it('knows what is written', () => {
  expect(written({ a: [], b: '', c: null, d: false, e: { f: [''] } })).toBe(false)
  expect(written({ a: [{ b: 0 }] })).toBe(true)
})
