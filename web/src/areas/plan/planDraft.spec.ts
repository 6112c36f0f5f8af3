import { describe, expect, it } from 'vitest'

import type { FitReason, PlaceReason } from '@/shared/api/types'
import { answered, stored } from './plan.setup'
import {
  blankPlan,
  byPosition,
  inProposedOrder,
  moved,
  planDraft,
  type PlanDraft,
  planTest,
  resumedPlan,
  without,
} from './planDraft'
import { costWords, deadline, fitWords, isProposed, reasonWords } from './planWords'

describe('a plan while it is written', () => {
  it('begins with the question that is asked and usual thresholds, and copies a stored plan apart from it', () => {
    const blank = blankPlan('pelvis', 'Sore joint', 0.3)
    expect(blank.questions).toEqual([
      {
        condition: 'Sore joint',
        pre_test: 0.3,
        reassure_below: 0.1,
        treat_above: 0.7,
        between: [],
        above: 'treat',
      },
    ])
    const draft = planDraft(stored)
    draft.tests[1]!.after.push('c')
    draft.questions[0]!.pre_test = 0.9
    expect(stored.tests[1]?.after).toEqual(['a'])
    expect(stored.questions[0]?.pre_test).toBe(0.3)
    expect(Object.keys(draft)).not.toContain('version')
    // What was left before plans knew more than two actions goes on with those.
    const { between, above, ...two } = blank.questions[0]!
    const { course, ...left } = { ...blank, questions: [two] }
    expect(resumedPlan(left as unknown as PlanDraft)).toEqual({
      ...blank,
      course,
      questions: [{ ...two, between, above }],
    })
  })

  it('moves tests within the list only, puts them in a given order, and forgets wishes for one that is gone', () => {
    const tests = ['a', 'b', 'c'].map(planTest)
    expect(moved(tests, 0, 2).map((it) => it.test)).toEqual(['b', 'c', 'a'])
    expect(moved(tests, 0, -1)).toBe(tests)
    expect(moved(tests, 2, 3)).toBe(tests)
    // Also by an answer to another order, and to a list without one of them.
    const ordered = (asked: string[]) =>
      inProposedOrder(moved(tests, 0, 2), answered(asked)).map((it) => it.test)
    expect([ordered(['c', 'b', 'a']), ordered(['b', 'a'])]).toEqual([
      ['a', 'b', 'c'],
      ['a', 'b', 'c'],
    ])
    expect(ordered(['c', 'a'])).toEqual(['a', 'c', 'b'])
    const wished = tests.with(2, { ...planTest('c'), after: ['a', 'b'] })
    expect(without(wished, 0)).toEqual([planTest('b'), { ...planTest('c'), after: ['b'] }])
  })

  it('groups neighbours by position, and those without one by themselves', () => {
    const at = (position: 'sitting' | 'standing' | null) => ({ position })
    const groups = byPosition([at('sitting'), at('sitting'), at(null), at('standing'), at('sitting')])
    expect(groups.map((it) => [it.position, it.tests.length])).toEqual([
      ['sitting', 2],
      [null, 1],
      ['standing', 1],
      ['sitting', 1],
    ])
    expect(byPosition([])).toEqual([])
  })

  it('says in words what an order costs and gains beside the proposed one', () => {
    const best = answered(['a', 'b', 'c'])
    expect([isProposed(best), costWords(best)]).toEqual([true, []])
    const other = answered(['b', 'a', 'c'])
    expect(isProposed(other)).toBe(false)
    const cheaper = { ...other, own: { ...other.own, broken: [], cost: { ...best.own.cost } } }
    expect(isProposed(cheaper)).toBe(true)
    const cost = {
      ...other.own.cost,
      changes: 0,
      informative_early: -0.1,
      irritating_late: 1,
      one_attempt: 0,
    }
    expect(costWords({ ...other, own: { ...other.own, cost } })).toEqual([
      'does informative tests later',
      'turns the patient 0 times instead of 1',
      'does irritating tests later',
    ])
  })

  it('has words for every reason of a place and of a fit', () => {
    const places: PlaceReason[] = [
      { code: 'same_position' },
      { code: 'one_attempt' },
      { code: 'irritating' },
      { code: 'most_informative' },
      { code: 'kept_last' },
      { code: 'before', test: 1 },
      { code: 'after', test: 0 },
    ]
    const said = reasonWords(places, (place) => ['Raise', 'Spread'][place] ?? '?')
    expect(said.slice(-2)).toEqual(['before Spread', 'after Raise'])
    expect(said.every((words) => words && !words.includes('undefined'))).toBe(true)
    const fits: FitReason[] = [
      { code: 'caution', caution: 'Fever.', instead: '', within_hours: 48, of: 0 },
      { code: 'open', question: 'Any fever?' },
      { code: 'position', position: 'sitting' },
      { code: 'equipment', name: 'Belt' },
      { code: 'irritation' },
      { code: 'minutes' },
    ]
    expect(fitWords(fits)).toEqual([
      'Fever. Within 2 days.',
      'first find out: Any fever?',
      'the patient cannot be sitting',
      'not at hand: Belt',
      'too irritating for this complaint',
      'the minutes at hand are used up',
    ])
    expect([deadline(null), deadline(0), deadline(24), deadline(72)]).toEqual([
      '',
      'At once.',
      'Within 24 h.',
      'Within 3 days.',
    ])
  })
})
