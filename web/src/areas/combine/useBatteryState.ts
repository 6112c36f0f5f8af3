import { computed } from 'vue'

import type { BatteryInput } from '@/shared/api/types'
import { type Query, useAddress } from '@/shared/question/useAddress'
import { useQuestion } from '@/shared/question/useQuestion'

/** How far tests are taken to depend on each other until somebody says otherwise. */
const USUAL_CORRELATION = 0.5
export const MOST_TESTS = 8

export type ResultFilter = 'variant' | 'criterion'
type Kind = BatteryInput['dependence']['kind']
export interface Dependence {
  kind: Kind
  with: number
  without: number
}

/** A battery as the address says it: the rule, then its tests. */
const kept = (rule: number, tests: string[]) => [rule, ...tests].join('.')

/** The tests of a battery, its rule, its dependence and what it is compared with; all of it lives in the address. */
export function useBatteryState() {
  const { one, many, change } = useAddress()
  const { region, condition, preTest } = useQuestion()

  const tests = computed(() => [...new Set(many('in'))].slice(0, MOST_TESTS))
  const rule = computed(() => {
    const given = Number(one('rule') || NaN)
    return Number.isInteger(given) && given >= 1 ? Math.min(given, Math.max(tests.value.length, 1)) : 1
  })
  const number = (name: string, usual: number, [low, high]: readonly [number, number]) => {
    const given = Number(one(name) || NaN)
    return given >= low && given <= high ? given : usual
  }
  const dependence = computed<Dependence>(() => {
    if (one('said') === 'covariance' && tests.value.length === 2) {
      const of = (name: string) => number(name, 0, [-0.25, 0.25])
      return { kind: 'covariance', with: of('cov'), without: of('covother') }
    }
    const both = number('depend', USUAL_CORRELATION, [0, 0.9])
    return { kind: 'correlation', with: both, without: number('dependother', both, [0, 0.9]) }
  })
  /** Which variant or criterion of a test counts; a test that is not named takes all. */
  const filtered = (name: ResultFilter, test: string) => {
    const found = many(name).find((it) => it.startsWith(`${test}.`))
    return found == null ? null : found.slice(test.length + 1)
  }
  const selection = (test: string) => {
    const only = (['variant', 'criterion'] as const).flatMap((name) => {
      const value = filtered(name, test)
      return value == null ? [] : [[name, [value]] as [ResultFilter, string[]]]
    })
    return { only: Object.fromEntries(only), from: null, until: null, off: [] }
  }
  const input = (of: string[], atLeast: number): BatteryInput => ({
    region: region.value,
    condition: condition.value?.name ?? '',
    pre_test: preTest.value,
    tests: of.map((test) => ({ test, selection: selection(test) })),
    at_least: atLeast,
    dependence:
      dependence.value.kind === 'covariance' && of.length !== 2
        ? { kind: 'correlation', with: USUAL_CORRELATION, without: USUAL_CORRELATION }
        : dependence.value,
  })
  const against = computed(() => {
    const [rule, ...tests] = one('against').split('.')
    const k = Number(rule)
    return tests.length >= 2 && Number.isInteger(k) && k >= 1 && k <= tests.length ? { rule: k, tests } : null
  })
  /** A number without the one that stands for it anyway. */
  const said = (value: number, usual: number) =>
    value === usual ? undefined : String(Number(value.toFixed(3)))

  return {
    tests,
    rule,
    dependence,
    filtered,
    against,
    input: computed(() => input(tests.value, rule.value)),
    againstInput: computed(() => (against.value ? input(against.value.tests, against.value.rule) : null)),
    toggle: (test: string) => {
      const all = tests.value.includes(test)
        ? tests.value.filter((it) => it !== test)
        : [...tests.value, test].slice(0, MOST_TESTS)
      // "All" stays all; any other rule asks for as many positive tests as before.
      const wasAll = rule.value === tests.value.length && rule.value > 1
      const next = wasAll ? all.length : Math.min(rule.value, Math.max(all.length, 1))
      return change({ in: all, rule: next > 1 ? String(next) : undefined })
    },
    /** Drops what is not among these: a test that is gone, or of another condition. */
    keepOnly: (known: string[]) => change({ in: tests.value.filter((it) => known.includes(it)) }),
    setRule: (to: number) => change({ rule: to > 1 ? String(to) : undefined }),
    filter: (name: ResultFilter, test: string, to: string | null) => {
      const others = many(name).filter((it) => !it.startsWith(`${test}.`))
      return change({ [name]: to == null ? others : [...others, `${test}.${to}`] } as Query)
    },
    setDependence: (to: Dependence) =>
      change(
        to.kind === 'covariance'
          ? { said: 'covariance', cov: said(to.with, 0), covother: said(to.without, 0) }
          : {
              said: undefined,
              depend: said(to.with, USUAL_CORRELATION),
              dependother: said(to.without, to.with),
            },
      ),
    keep: () => change({ against: kept(rule.value, tests.value) }),
    dropKept: () => change({ against: undefined }),
    swap: () => {
      const to = against.value
      return to
        ? change({
            in: to.tests,
            rule: to.rule > 1 ? String(to.rule) : undefined,
            against: kept(rule.value, tests.value),
          })
        : Promise.resolve()
    },
    /** Another question: its tests are others. */
    leave: () =>
      change({
        in: undefined,
        rule: undefined,
        against: undefined,
        variant: undefined,
        criterion: undefined,
      }),
  }
}
