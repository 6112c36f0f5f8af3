import { ref, watch, type Ref } from 'vue'

import { ApiProblem } from '@/shared/api/client'
import { askAccuracy } from '@/shared/api/queries'
import type { FieldError, RawCounts, StudyAccuracy } from '@/shared/api/types'

const REST_MILLISECONDS = 120

/** A group with one cell still to come is being typed: there is nothing to ask yet. */
function askable({ tp, fp, fn, tn }: RawCounts): boolean {
  const whole = (a?: number | null, b?: number | null) => (a == null) === (b == null)
  return whole(tp, fn) && whole(fp, tn) && (tp != null || tn != null)
}

/**
 * Asks the server's core what the typed cells say. Only the answer to the latest cells is shown: an older question is
 * aborted as soon as a cell changes.
 */
export function useLiveAccuracy(cells: Ref<RawCounts>) {
  const accuracy = ref<StudyAccuracy | null>(null)
  const faults = ref<FieldError[]>([])
  let timer: ReturnType<typeof setTimeout> | undefined
  let asking: AbortController | undefined

  async function ask(asked: RawCounts) {
    asking = new AbortController()
    const { signal } = asking
    try {
      const answer = await askAccuracy(asked, signal)
      if (signal.aborted) return
      accuracy.value = answer
      faults.value = []
    } catch (cause) {
      if (signal.aborted) return
      accuracy.value = null
      faults.value = cause instanceof ApiProblem ? cause.fields : []
    }
  }

  watch(
    cells,
    (now) => {
      clearTimeout(timer)
      asking?.abort()
      if (!askable(now)) {
        accuracy.value = null
        faults.value = []
        return
      }
      timer = setTimeout(() => void ask({ ...now }), REST_MILLISECONDS)
    },
    { deep: true },
  )
  return { accuracy, faults }
}
