import { useTimeoutFn } from '@vueuse/core'
import { ref, watch, type Ref } from 'vue'

import { ApiProblem } from '@/shared/api/client'
import type { FieldError } from '@/shared/api/types'

const REST_MILLISECONDS = 120

/**
 * Asks the server's core what stands in the form while it is typed. Only the answer to the latest question is shown: an older
 * one is aborted as soon as something changes. `askable` says whether there is anything to ask yet.
 */
export function useLiveAnswer<Question extends object, Answer>(
  question: Ref<Question>,
  askable: (question: Question) => boolean,
  ask: (question: Question, signal: AbortSignal) => Promise<Answer>,
) {
  const answer = ref<Answer | null>(null) as Ref<Answer | null>
  const faults = ref<FieldError[]>([])
  let asking: AbortController | undefined

  async function send(asked: Question) {
    asking = new AbortController()
    const { signal } = asking
    try {
      const found = await ask(asked, signal)
      if (signal.aborted) return
      answer.value = found
      faults.value = []
    } catch (cause) {
      if (signal.aborted) return
      answer.value = null
      faults.value = cause instanceof ApiProblem ? cause.fields : []
    }
  }

  const rested = useTimeoutFn((asked: Question) => void send(asked), REST_MILLISECONDS, { immediate: false })
  watch(
    question,
    (now) => {
      rested.stop()
      asking?.abort()
      if (!askable(now)) {
        answer.value = null
        faults.value = []
        return
      }
      rested.start({ ...now })
    },
    { deep: true, immediate: true },
  )
  return { answer, faults }
}
