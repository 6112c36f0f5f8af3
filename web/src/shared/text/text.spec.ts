import { describe, expect, it } from 'vitest'

import { sections } from '@/areas/catalogue/sheetFields'
import { RESULT_FIELDS } from '@/areas/evidence/resultFields'
import codes from '../codes.json'
import { text } from '.'

/** What nobody in the field says, and what they say instead. */
const SAID_INSTEAD: [RegExp, string][] = [
  [/\b(bring|brought|bringing|comes?) (it )?in\b/i, 'import'],
  [/\btak(e|en|ing) (it )?out\b/i, 'export'],
  [/\bnarrow (it|the choice)|^narrow\b/i, 'filter'],
  [/next study/i, 'prediction interval, prediction region'],
  [/things? to look at|checks found/i, 'warnings'],
  [/know of each other/i, 'conditional dependence between tests'],
  [/common as elsewhere/i, 'at other prevalences'],
  [/with the suspicion|cases and controls/i, 'single-gate (cohort), case-control (two-gate)'],
  [/in turn, or drawn by lot/i, 'consecutive or random sample'],
  [/everybody in the figures/i, 'all patients included in the analysis'],
  [/tell right who/i, 'classify the condition correctly'],
  [/no information at all/i, 'compatible with no diagnostic value'],
  [/speaks? (against|for) (it|the condition)/i, 'lowers or raises the probability of the condition'],
  [/honest tr(y|ies)/i, 'valid attempts'],
  [/startling/i, 'may be unpleasant: optional step'],
  [/is not told\b/i, 'not reported'],
  [/not for sure/i, 'uncertain'],
  [/offered? no longer|no longer offered/i, 'archived'],
  [/over the specificities seen/i, 'SROC curve'],
  [/region of the summary/i, 'confidence region'],
  [/may be chance\.$/i, 'minimal detectable change, measurement error'],
  [/\bput away\b|throw it away/i, 'discard'],
]

function words(of: unknown): string[] {
  if (typeof of === 'string') return [of]
  // What a sentence is made of stands in its function.
  if (typeof of === 'function') return [String(of)]
  return of && typeof of === 'object' ? Object.values(of).flatMap(words) : []
}

describe('the words of the interface', () => {
  it('are those of the field', () => {
    const all = words([text, codes, sections, RESULT_FIELDS])
    expect(all.length).toBeGreaterThan(1_000)
    const wrong = SAID_INSTEAD.flatMap(([pattern, instead]) =>
      all.filter((said) => pattern.test(said)).map((said) => `${said} → ${instead}`),
    )
    expect(wrong).toEqual([])
  })
})
