import { computed } from 'vue'

import type { PatientInput } from '@/shared/api/types'
import { useAddress } from '@/shared/question/useAddress'
import { useQuestion } from '@/shared/question/useQuestion'

/** How far tests are taken to depend on each other until somebody says otherwise. */
const USUAL_CORRELATION = 0.5

/** What a test showed: positive or negative, or a level of its finding. */
export type Shown = { positive: boolean } | { level: string }
export type Found = { test: string } & Shown

/** As the address says it: `test.positive`, or `test.level.its name`. */
const said = (it: Found) =>
  `${it.test}.${'level' in it ? `level.${it.level}` : it.positive ? 'positive' : 'negative'}`
function read(said: string): Found[] {
  const [test, result, ...level] = said.split('.')
  if (!test) return []
  if (result === 'level' && level.length) return [{ test, level: level.join('.') }]
  return result === 'positive' || result === 'negative' ? [{ test, positive: result === 'positive' }] : []
}

/** A patient's results, and which test is looked at; all of it lives in the address. */
export function usePatientState() {
  const { one, many, change } = useAddress()
  const { region, condition, preTest, range, thresholds } = useQuestion()

  const findings = computed<Found[]>(() => many('found').flatMap(read))
  const correlation = computed(() => {
    const given = Number(one('depend') || NaN)
    return given >= 0 && given <= 0.9 ? given : USUAL_CORRELATION
  })
  const look = computed(() => one('look') || null)
  const written = (all: Found[]) => ({ found: all.map(said) })
  const without = (test: string) => findings.value.filter((it) => it.test !== test)

  return {
    findings,
    correlation,
    look,
    input: computed<PatientInput>(() => ({
      region: region.value,
      condition: condition.value?.name ?? '',
      pre_test: preTest.value,
      range: range.value ? [...range.value] : null,
      thresholds: thresholds.value && {
        reassure_below: thresholds.value.reassure,
        treat_above: thresholds.value.act,
      },
      findings: findings.value,
      correlation: correlation.value,
      focus: look.value,
    })),
    /** What was found with a test; the same said again takes it back. */
    setFound: (test: string, shown: Shown) => {
      const now = { test, ...shown }
      const known = findings.value.find((it) => it.test === test)
      if (known && said(known) === said(now)) return change(written(without(test)))
      const all = known ? findings.value.map((it) => (it.test === test ? now : it)) : [...findings.value, now]
      return change({ ...written(all), look: test })
    },
    remove: (test: string) => change(written(without(test))),
    clear: () => change(written([])),
    /** Another question: neither results nor the test that was looked at belong to it. */
    leave: () => change({ found: undefined, look: undefined }),
    setCorrelation: (to: number) =>
      change({ depend: to === USUAL_CORRELATION ? undefined : String(Number(to.toFixed(1))) }),
    setLook: (test: string) => change({ look: test }),
  }
}
