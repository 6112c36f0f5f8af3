import type { PlanQuestionInput } from '@/shared/api/types'
import { percent } from '@/shared/format'
import { text } from '@/shared/text'

const words = text.plan.questions
const share = (value: number | null | undefined) => (value == null ? '–' : percent(value))

/** From which probability on what is done for a condition. */
export function thresholdWords(question: PlanQuestionInput): string {
  const { pre_test, reassure_below, treat_above, between, above } = question
  const bands = (between ?? []).map((it) =>
    words.from(it.action ? words.actions[it.action] : '–', share(it.from)),
  )
  const steps = [
    words.below(share(reassure_below)),
    ...bands,
    words.above(words.actions[above ?? 'treat'], share(treat_above)),
  ]
  return words.thresholds(share(pre_test), steps.join(', '))
}
