import { ref } from 'vue'

import { ApiProblem } from './api/client'
import type { FieldError } from './api/types'

/**
 * Something that the server may refuse: what is wrong stands field by field, or else in one sentence. Of two attempts the later one
 * counts, whichever is answered first.
 */
export function useAttempt() {
  const faults = ref<FieldError[]>([])
  const failure = ref('')
  const busy = ref(false)
  let latest = 0

  function clear() {
    latest += 1
    busy.value = false
    faults.value = []
    failure.value = ''
  }
  /** Answers what `work` does, or nothing when it was refused; `refused` is told why first. */
  async function attempt<Answer>(
    work: () => Promise<Answer>,
    refused?: (why: ApiProblem) => unknown,
  ): Promise<Answer | undefined> {
    clear()
    busy.value = true
    const own = latest
    try {
      return await work()
    } catch (cause) {
      if (!(cause instanceof ApiProblem)) throw cause
      if (own !== latest) return undefined
      faults.value = cause.fields
      failure.value = cause.fields.length ? '' : cause.message
      await refused?.(cause)
      return undefined
    } finally {
      if (own === latest) busy.value = false
    }
  }
  return { faults, failure, busy, clear, attempt }
}
