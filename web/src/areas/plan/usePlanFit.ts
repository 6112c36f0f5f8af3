import { computed } from 'vue'

import type { PatientFitInput, Position, ScreeningAnswer } from '@/shared/api/types'
import { useAddress } from '@/shared/question/useAddress'

const ANSWERS: ScreeningAnswer[] = ['yes', 'no', 'unknown']
type List = 'cannot' | 'lacking' | 'holds' | 'wish'

/** What is said of the patient for whom a plan is made to fit; it lives in the address and is kept nowhere else. */
export function usePlanFit() {
  const { one, many, change } = useAddress()

  const answers = computed(() => {
    const said = many('said').flatMap((it) => {
      const [key = '', answer] = it.split('.')
      return ANSWERS.includes(answer as ScreeningAnswer) ? [[key, answer as ScreeningAnswer] as const] : []
    })
    return new Map(said)
  })
  const number = (name: string, most: number) => {
    const given = Number(one(name) || NaN)
    return given >= 0 && given <= most ? given : null
  }
  const input = computed<PatientFitInput>(() => ({
    answers: Object.fromEntries(answers.value),
    irritable: number('irritable', 3) === null ? null : Math.round(number('irritable', 3) ?? 0),
    cannot_take: many('cannot') as Position[],
    lacking: many('lacking'),
    minutes: number('minutes', 600),
    situations: many('holds'),
    wished: many('wish'),
  }))
  return {
    /** The plan is made to fit; otherwise it is read as it is. */
    open: computed(() => one('fit') === 'true'),
    setOpen: (on: boolean) => change({ fit: on ? 'true' : undefined }),
    answers,
    input,
    /** The same said again takes it back. */
    answer: (key: string, to: ScreeningAnswer) => {
      const all = new Map(answers.value)
      if (all.get(key) === to) all.delete(key)
      else all.set(key, to)
      return change({ said: [...all].map((it) => it.join('.')) })
    },
    setList: (name: List, to: string[]) => change({ [name]: to.length ? to : undefined }),
    setNumber: (name: 'irritable' | 'minutes', to: number | null) =>
      change({ [name]: to === null ? undefined : String(to) }),
    clear: () =>
      change({
        said: undefined,
        cannot: undefined,
        lacking: undefined,
        irritable: undefined,
        minutes: undefined,
        holds: undefined,
        wish: undefined,
      }),
  }
}
