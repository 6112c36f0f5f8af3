import type { Facet, TestRow, WhyOut } from '@/shared/api/types'
import { text } from '@/shared/text'

/** A value of a facet as people say it. */
export function facetWords(facet: Facet, value: string, tests: Pick<TestRow, 'id' | 'name'>[] = []): string {
  if (!value) return text.pool.notSaid[facet] ?? text.pool.notSaid.other!
  if (facet === 'test') return tests.find((test) => test.id === value)?.name ?? text.pool.aTest
  if (facet === 'unit') return text.result.units[value] ?? value
  if (facet === 'risk_of_bias') return text.appraisal.judgements[value as 'low'] ?? value
  return facet in text.setup.choices ? (text.setup.choices[facet as 'design'].words[value] ?? value) : value
}

/** Why a result is not in a pool, where what it says is not at hand. */
export function whyWords(why: WhyOut): string {
  return why.code === 'facet'
    ? text.pool.otherFacet(text.pool.facets[why.facet])
    : (text.pool.why[why.code] ?? '')
}
