import type { Ref } from 'vue'

import { askAccuracy } from '@/shared/api/queries'
import type { RawCounts } from '@/shared/api/types'
import { useLiveAnswer } from '@/shared/useLiveAnswer'

/** A group with one cell still to come is being typed: there is nothing to ask yet. */
function askable({ tp, fp, fn, tn }: RawCounts): boolean {
  const whole = (a?: number | null, b?: number | null) => (a == null) === (b == null)
  return whole(tp, fn) && whole(fp, tn) && (tp != null || tn != null)
}

/** What the typed cells say. */
export function useLiveAccuracy(cells: Ref<RawCounts>) {
  const { answer: accuracy, faults } = useLiveAnswer(cells, askable, askAccuracy)
  return { accuracy, faults }
}
