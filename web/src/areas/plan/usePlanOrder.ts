import { computed, type Ref } from 'vue'

import { askPlanOrder } from '@/shared/api/queries'
import type { PlanOrderInput } from '@/shared/api/types'
import { useLiveAnswer } from '@/shared/useLiveAnswer'
import type { PlanDraft } from './planDraft'

/** What the core says of the tests in their present order, and which one it proposes; asked anew with every change. */
export function usePlanOrder(plan: Ref<PlanDraft | null>) {
  const question = computed<PlanOrderInput>(() => ({
    region: plan.value?.region ?? '',
    questions: plan.value?.questions ?? [],
    tests: plan.value?.tests ?? [],
    weights: plan.value?.weights,
    setting: plan.value?.setting,
    course: plan.value?.course,
    state: plan.value?.state,
    frame_anywhere: plan.value?.frame_anywhere,
  }))
  const complete = ({ questions, tests }: PlanOrderInput) =>
    tests.length > 0 &&
    questions.length > 0 &&
    questions.every(
      (it) =>
        it.condition &&
        it.pre_test != null &&
        it.reassure_below != null &&
        it.treat_above != null &&
        it.between.every((band) => band.action && band.from != null),
    )
  return useLiveAnswer(question, complete, askPlanOrder)
}
