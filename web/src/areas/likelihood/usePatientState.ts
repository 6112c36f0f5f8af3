import { computed } from 'vue'

import type { PatientInput } from '@/shared/api/types'
import { useAddress } from '@/shared/question/useAddress'
import { useQuestion } from '@/shared/question/useQuestion'

/** How far tests are taken to depend on each other until somebody says otherwise. */
const USUAL_CORRELATION = 0.5

export interface Found {
  test: string
  positive: boolean
}

/** A patient's results, and which test is looked at; all of it lives in the address. */
export function usePatientState() {
  const { one, many, change } = useAddress()
  const { region, condition, preTest, range, thresholds } = useQuestion()

  const findings = computed<Found[]>(() =>
    many('found').flatMap((said) => {
      const [test, result] = said.split('.')
      return test && (result === 'positive' || result === 'negative')
        ? [{ test, positive: result === 'positive' }]
        : []
    }),
  )
  const correlation = computed(() => {
    const given = Number(one('depend') || NaN)
    return given >= 0 && given <= 0.9 ? given : USUAL_CORRELATION
  })
  const look = computed(() => one('look') || null)
  const written = (all: Found[]) => ({
    found: all.map((it) => `${it.test}.${it.positive ? 'positive' : 'negative'}`),
  })
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
    setFound: (test: string, positive: boolean) => {
      const known = findings.value.find((it) => it.test === test)
      if (known?.positive === positive) return change(written(without(test)))
      const all = known
        ? findings.value.map((it) => (it.test === test ? { test, positive } : it))
        : [...findings.value, { test, positive }]
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
