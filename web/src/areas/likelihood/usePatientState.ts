import { computed } from 'vue'
import { useRoute, useRouter } from 'vue-router'

import type { PatientInput } from '@/shared/api/types'
import { useQuestion } from '@/shared/question/useQuestion'

/** How far tests are taken to depend on each other until somebody says otherwise. */
const USUAL_CORRELATION = 0.5

export interface Found {
  test: string
  positive: boolean
}

/** A patient's results, and which test is looked at; all of it lives in the address. */
export function usePatientState() {
  const route = useRoute()
  const router = useRouter()
  const { region, condition, preTest, range, thresholds } = useQuestion()
  const many = (name: string) =>
    [route.query[name]].flat().flatMap((value) => (typeof value === 'string' ? [value] : []))
  const change = (changes: Record<string, string | string[] | undefined>) =>
    router.replace({ query: { ...route.query, ...changes } })

  const findings = computed<Found[]>(() =>
    many('found').flatMap((said) => {
      const [test, result] = said.split('.')
      return test && (result === 'positive' || result === 'negative')
        ? [{ test, positive: result === 'positive' }]
        : []
    }),
  )
  const correlation = computed(() => {
    const given = Number(many('depend')[0] ?? NaN)
    return given >= 0 && given <= 0.9 ? given : USUAL_CORRELATION
  })
  const look = computed(() => many('look')[0] ?? null)
  const write = (all: Found[], more = {}) =>
    change({ found: all.map((it) => `${it.test}.${it.positive ? 'positive' : 'negative'}`), ...more })

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
      if (known?.positive === positive) return write(findings.value.filter((it) => it.test !== test))
      return write(
        known
          ? findings.value.map((it) => (it.test === test ? { test, positive } : it))
          : [...findings.value, { test, positive }],
        { look: test },
      )
    },
    remove: (test: string) => write(findings.value.filter((it) => it.test !== test)),
    clear: () => write([]),
    setCorrelation: (to: number) =>
      change({ depend: to === USUAL_CORRELATION ? undefined : String(Number(to.toFixed(1))) }),
    setLook: (test: string) => change({ look: test }),
  }
}
