import { computed } from 'vue'

import type { StandingInput } from '@/shared/api/types'
import { useAddress } from '@/shared/question/useAddress'

export const RESULTS = ['positive', 'negative', 'unreadable'] as const
const LEVEL = 'level:'
export type PlanResult = (typeof RESULTS)[number] | `${typeof LEVEL}${string}`
/** A level of the test's finding as a result. */
export const atLevel = (name: string): PlanResult => `${LEVEL}${name}`
const isResult = (said: string): said is PlanResult =>
  said.startsWith(LEVEL) || (RESULTS as readonly string[]).includes(said)
/** As the server reads it. */
const finding = (test: string, result: PlanResult) =>
  result.startsWith(LEVEL)
    ? { test, level: result.slice(LEVEL.length) }
    : { test, positive: result === 'positive' }

/** Results that are tried on a plan; they live in the address and are kept nowhere else. */
export function usePlanResults() {
  const { one, many, change } = useAddress()

  const results = computed(() => {
    const said = many('found').flatMap((it) => {
      // Names of levels may have a dot, ids have none.
      const [test = '', ...rest] = it.split('.')
      const result = rest.join('.')
      return test && isResult(result) ? [[test, result] as const] : []
    })
    return new Map(said)
  })
  const asked = computed(() => many('asked'))
  const set = (to: Map<string, PlanResult>) =>
    change({ found: to.size ? [...to].map((it) => it.join('.')) : undefined })
  return {
    /** Results are tried; otherwise the plan is read as it is. */
    open: computed(() => one('try') === 'true'),
    setOpen: (on: boolean) => change({ try: on ? 'true' : undefined }),
    results,
    asked,
    /** What is known so far, of the tests that may be done; those that are not done now tell nothing. */
    input: (doable: string[], notNow: string[]): StandingInput => {
      const given = [...results.value].filter(([test]) => doable.includes(test))
      const findings = given.filter(([, result]) => result !== 'unreadable')
      const unreadable = given.filter(([, result]) => result === 'unreadable').map(([test]) => test)
      return {
        findings: findings.map(([test, result]) => finding(test, result)),
        without: [...unreadable, ...notNow],
        asked: asked.value,
      }
    },
    /** The same said again takes it back; said anew it counts as found last. */
    say: (test: string, result: PlanResult) => {
      const all = new Map(results.value)
      const same = all.get(test) === result
      if (same) all.delete(test)
      else all.set(test, result)
      return set(all)
    },
    setAsked: (condition: string, on: boolean) => {
      const others = asked.value.filter((it) => it !== condition)
      const all = on ? [...others, condition] : others
      return change({ asked: all.length ? all : undefined })
    },
    clear: () => change({ found: undefined, asked: undefined }),
  }
}
