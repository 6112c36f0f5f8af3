import { describe, expect, it } from 'vitest'

import type { SheetInput } from '@/shared/api/types'
import { blankSheet } from './sheetDraft'
import { contested, merged } from './sheetMerge'

const variant = (name: string, position: string) => ({ name, patient_position: position })
const sheet = (change: Record<string, unknown> = {}) =>
  ({
    ...blankSheet('hand_wrist', 'Weakness'),
    name: 'Lift',
    positive_finding: 'Weak',
    variants: [variant('Taught', 'Sitting'), variant('Other', 'Lying')],
    ...change,
  }) as unknown as SheetInput
const by = (base: SheetInput | null, mine: SheetInput, theirs: SheetInput) =>
  Object.fromEntries(contested(base, mine, theirs).map((field) => [field.path, field.by]))

describe('two texts that began from one', () => {
  const base = sheet()

  it('keep what only one of two people changed, and ask where both did', () => {
    const mine = sheet({ name: 'Lift, standing', positive_finding: 'Weaker' })
    const theirs = sheet({
      positive_finding: 'Weaker than the other side',
      variants: [variant('Taught', 'Standing'), variant('Other', 'Lying')],
    })
    expect(by(base, mine, theirs)).toEqual({
      name: 'me',
      positive_finding: 'both',
      'variants[0].patient_position': 'them',
    })
    const whole = merged(mine, theirs, ['variants[0].patient_position'])
    expect(whole).toMatchObject({ name: 'Lift, standing', positive_finding: 'Weaker' })
    expect(whole.variants![0]).toMatchObject({ name: 'Taught', patient_position: 'Standing' })
    expect(mine.variants![0]!.patient_position, 'what was typed is not touched').toBe('Sitting')
  })

  it('do not differ in what both changed to the same', () => {
    const same = sheet({ name: 'Lift, lying' })
    expect(by(base, same, sheet({ name: 'Lift, lying' }))).toEqual({})
  })

  it('ask for everything when the text that both began from is not known', () => {
    expect(by(null, sheet({ name: 'A' }), sheet({ name: 'B', positive_finding: 'C' }))).toEqual({
      name: 'both',
      positive_finding: 'both',
    })
  })

  it('ask for variants when there are more or fewer: the second of one is not the second of the other', () => {
    const theirs = sheet({ name: 'Their name', variants: [variant('Other', 'Lying')] })
    const found = by(base, base, theirs)
    expect(found.name).toBe('them')
    expect(Object.entries(found).filter(([path]) => path.startsWith('variants'))).not.toHaveLength(0)
    for (const [path, whose] of Object.entries(found))
      if (path.startsWith('variants')) expect(whose, path).toBe('both')
    const taken = merged(base, theirs, Object.keys(found))
    expect(taken.variants, 'a variant of which nothing is left goes').toHaveLength(1)
    expect(taken.variants![0]).toMatchObject({ name: 'Other', patient_position: 'Lying' })
  })
})
