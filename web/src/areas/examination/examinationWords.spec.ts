import { describe, expect, it } from 'vitest'

import type { Attempt, OutcomeTest, TestConduct, Variant } from '@/shared/api/types'
import { finished } from './examination.setup'
import {
  attemptNotes,
  causeWords,
  leftWords,
  nameIn,
  shownWords,
  sidesOf,
  triggerOf,
} from './examinationWords'

const attempt = (of: Partial<Attempt>): Attempt => ({
  side: 'affected',
  shown: 'negative',
  level: '',
  unreadable: null,
  unable: null,
  pain: null,
  held: null,
  pain_ended: false,
  pitfalls: [],
  overruled: '',
  note: '',
  ...of,
})
const left = (of: Partial<OutcomeTest>) =>
  ({ fit: 'ready', left_out: false, reasons: [], ...of }) as unknown as OutcomeTest
const conducted = (of: Partial<TestConduct>): TestConduct => ({
  test: 'a',
  attempts: [],
  skipped: false,
  reason: '',
  ...of,
})

describe('words of an examination', () => {
  it('say what an attempt showed, with its reason', () => {
    expect(shownWords(attempt({}))).toBe('Negative')
    expect(shownWords(attempt({ shown: 'level', level: 'hard' }))).toBe('hard')
    expect(shownWords(attempt({ shown: 'unable', unable: 'fear' }))).toBe('Could not do it: fear')
    expect(shownWords(attempt({ shown: 'not_interpretable', unreadable: 'stopped' }))).toBe(
      'Not interpretable: stopped before its end',
    )
    expect(attemptNotes(attempt({ held: 0, pain: 'other', note: 'Cold room' }))).toEqual([
      'other pain',
      'held 0 s',
      'Cold room',
    ])
  })

  it('say why it is not read as it was entered', () => {
    expect(causeWords({ code: 'inability', note: '' })).toBe('by the sheet’s rule')
    expect(causeWords({ code: 'inability', note: 'Too weak' })).toBe('by the sheet’s rule: Too weak')
    expect(causeWords({ code: 'overruled', pitfall: 'Guards' })).toBe('counts in spite of: Guards')
    expect(causeWords({ code: 'no_rule' })).toContain('does not say')
  })

  it('say why a test was left out: what the examiner said before what the plan says', () => {
    const out = left({ fit: 'not_now', reasons: [{ code: 'minutes' }] })
    expect(leftWords(out, undefined)).toBe('the minutes at hand are used up')
    expect(leftWords(out, conducted({ skipped: true, reason: 'Asked to stop' }))).toBe('Asked to stop')
    expect(leftWords(out, conducted({ attempts: [attempt({ side: 'sound' })] }))).toBe('sound side only')
    expect(leftWords(left({ left_out: true }), undefined)).toBe('only where it is asked for')
    // Care is no reason to leave a test out.
    expect(leftWords(left({ fit: 'with_care', reasons: [{ code: 'minutes' }] }), undefined)).toBe('not done')
  })

  it('put the sides in the order of the plan, and both first where a test takes both at once', () => {
    const of = (sides: string | null) => ({ stance: { sides } }) as unknown as Variant
    expect(sidesOf(of(null), false)).toEqual(['sound', 'affected', 'both'])
    expect(sidesOf(of('one_side'), true)[0]).toBe('affected')
    expect(sidesOf(of('both_at_once'), true)[0]).toBe('both')
    expect(sidesOf(undefined, false)[0]).toBe('sound')
  })

  it('name a repeat’s trigger once, and a test that is gone by the record', () => {
    const repeat = {
      test: 'a',
      when: 'after_days' as const,
      on: '2027-01-01',
      reason: 'Settled',
      keep_same: '',
    }
    expect(triggerOf(repeat)).toBe('Settled')
    expect(triggerOf({ ...repeat, on: null })).toBe('after some days; Settled')
    expect(triggerOf({ ...repeat, when: 'swelling_gone', reason: '' })).toBe('when the swelling is gone')
    const record = { ...finished, named_tests: [] } as unknown as Parameters<typeof nameIn>[0]
    expect(nameIn(record, 'a')).toBe('Raise')
    expect(nameIn(record, 'z')).not.toBe('')
  })
})
