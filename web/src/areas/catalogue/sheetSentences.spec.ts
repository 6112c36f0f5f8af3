import { describe, expect, it } from 'vitest'

import type { Caution, Criterion, JointRange, Norm, ProcedureStep, Repeat } from '@/shared/api/types'
import {
  cautionNotes,
  criterionNotes,
  deadline,
  jointLine,
  levelRange,
  normWords,
  repeatLine,
  stepNotes,
  urgentWord,
} from './sheetSentences'

const norm = (more: Partial<Norm>) => normWords({ measure: 'Turn', note: '', unit: 'deg', ...more } as Norm)
const repeat = (more: Partial<Repeat>) =>
  repeatLine({ when: null, days: null, reason: '', keep_same: '', ...more } as Repeat)

describe('what a sheet says in words', () => {
  it('tells how soon, from at once to days', () => {
    const said = [null, 0, 0.5, 1, 24, 36, 48, 168].map(deadline)
    expect(said).toEqual([
      '',
      'at once',
      'within 0.5 hours',
      'within 1 hour',
      'within 24 hours',
      'within 36 hours',
      'within 2 days',
      'within 7 days',
    ])
    expect([urgentWord(null), urgentWord(0)]).toEqual(['Refer promptly.', 'Refer at once.'])
  })

  it('gives joints with a range, one angle, or the patient’s own', () => {
    const line = (more: object) =>
      jointLine({
        joint: 'shoulder',
        motion: null,
        from: null,
        to: null,
        individual: false,
        ...more,
      } as JointRange)
    expect(line({ motion: 'flexion', from: 0, to: 90 })).toBe('shoulder flexion 0 to 90°')
    expect(line({ motion: 'flexion', from: 90, to: 90 })).toBe('shoulder flexion 90°')
    expect(line({ motion: 'plane_of_elevation', individual: true })).toBe(
      'shoulder plane of elevation, in front of the frontal plane (found individually)',
    )
  })

  it('gives the bounds of classes, and what is normal', () => {
    expect(levelRange(0, 3, 'mm')).toBe('0 to below 3 mm')
    expect(levelRange(6, null, 'mm')).toBe('6 or more mm')
    expect(levelRange(null, 3, '')).toBe('below 3')
    expect(levelRange(null, null, 'mm')).toBe('')
    expect(norm({ kind: 'side_difference', low: 0, high: 5 })).toEqual({
      who: 'difference between sides',
      range: '0 to 5 deg',
    })
    expect(norm({ kind: 'sign', note: 'slight, on both sides' })).toEqual({
      who: 'normal amount',
      range: 'slight, on both sides',
    })
  })

  it('says when a test is repeated, and what must be the same', () => {
    expect(repeat({ when: 'after_days', days: 1 })).toBe('after 1 day.')
    expect(repeat({ when: 'after_days', days: 14, keep_same: 'Time of day.' })).toBe(
      'after 14 days. Keep the same: Time of day.',
    )
    expect(repeat({ when: 'under_anaesthesia', reason: 'It should not hurt.' })).toBe(
      'under anaesthesia. It should not hurt.',
    )
  })

  it('says nothing where nothing is written', () => {
    const step = { phase: '', reads: [], until: null, optional: false } as unknown as ProcedureStep
    expect(stepNotes(step, undefined)).toEqual([])
    expect(stepNotes(step, { push: null, effort: null })).toEqual([])
    expect(criterionNotes({ attempts: 1, reverses: '' } as unknown as Criterion)).toEqual([])
    const caution = { unsafe_answers: [], scope: null, joint: null, variant: '' } as unknown as Caution
    expect(cautionNotes(caution)).toEqual({ unsafe: '', reach: '' })
    // A joint that is not named cannot be read.
    expect(cautionNotes({ ...caution, scope: 'joint' }).reach).toBe('tests that load the joint')
  })
})
