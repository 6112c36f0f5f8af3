import { computed } from 'vue'

import { useAddress } from '@/shared/question/useAddress'
import { text } from '@/shared/text'
import { nameIn } from './examinationWords'
import type { Running } from './useExamination'

const words = text.examination.run
export const BEFORE = 'before'
export const END = 'end'

/** The way through an examination: screening, the tests of its plan, the conclusion; where one is, and what comes next. */
export function useExamineSteps(running: Running) {
  const { view } = running
  const stands = computed(() => view.value?.stands ?? null)
  const tests = computed(() => view.value?.plan.tests ?? [])
  const names = computed(() =>
    tests.value.map((it) => ({
      value: String(it.test),
      title: view.value ? nameIn(view.value, it.test) : '',
    })),
  )
  /** Where one is: in the address, so that a reload comes back to it. */
  const { one, change: goTo } = useAddress()
  const all = computed(() => [BEFORE, ...names.value.map((it) => it.value), END])
  const at = computed(() => (all.value.includes(one('at')) ? one('at') : BEFORE))
  const go = (to: string | undefined) => to && void goTo({ at: to === BEFORE ? undefined : to })
  const nth = computed(() => all.value.indexOf(at.value))
  const current = computed(() => tests.value[nth.value - 1] ?? null)
  const isOut = (test: string) => {
    const fit = stands.value?.fit.tests.find((it) => it.test === test)
    return !!fit && (fit.left_out || fit.state === 'not_now')
  }
  /** The next step that is done. */
  const following = computed(() => all.value.slice(nth.value + 1).find((it) => !isOut(it)))
  const before = computed(() => all.value.slice(0, Math.max(0, nth.value)).findLast((it) => !isOut(it)))
  const titleOf = (step: string | undefined) =>
    step === BEFORE
      ? words.before
      : step === END
        ? words.end
        : (names.value.find((it) => it.value === step)?.title ?? '')
  const stateOf = (step: string) => {
    const said = running.of(step)
    if (said?.attempts.length)
      return said.attempts.some((it) => it.side !== 'sound') ? words.done : words.soundOnly
    if (said?.skipped) return words.skipped
    return isOut(step) ? words.out : ''
  }
  /** What the core would do next, where that is another test than the plan's order has next. */
  const advised = computed(() => {
    const next = stands.value?.standing.next
    const test = next == null ? undefined : String(tests.value[next]?.test)
    return test && test !== following.value && test !== at.value ? test : undefined
  })
  const enough = computed(() => stands.value?.standing.end === 'finished')
  /** Why the next test is worth its time. */
  const worth = computed(() => {
    const place = names.value.findIndex((it) => it.value === following.value)
    const standing = stands.value?.standing
    if (!standing || place < 0) return []
    return standing.questions.flatMap((it) => {
      const open = it.open.find((test) => test.test === place)
      if (!open || it.state !== 'open') return []
      const condition = standing.questions.length > 1 ? it.condition : ''
      return text.plan.standing.open(
        condition,
        standing.minutes[place] ?? null,
        open.information.toFixed(2),
        open.changes,
      )
    })
  })
  return {
    all,
    tests,
    names,
    stands,
    at,
    nth,
    current,
    following,
    before,
    advised,
    enough,
    worth,
    go,
    titleOf,
    stateOf,
    isOut,
  }
}
export type Steps = ReturnType<typeof useExamineSteps>
