import { ref } from 'vue'

import { agreementInput } from '@/areas/evidence/agreementActions'
import { accuracyInput } from '@/areas/evidence/resultFields'
import { ApiProblem, api } from '@/shared/api/client'
import { refresh } from '@/shared/api/queries'
import type {
  AccuracyResult,
  AgreementInput,
  Change,
  ConditionInput,
  ExaminationPlanInput,
  StructureInput,
  StudyInput,
  TeachingConflictInput,
} from '@/shared/api/types'
import { text } from '@/shared/text'
import { undoBar } from '@/shared/undo'

/** Bringing earlier texts back, one at a time; a refusal is told in words. */
export function useRestoring() {
  const busy = ref(false)
  const failure = ref('')

  /** `done` is what is said when it succeeded. */
  async function run(work: () => Promise<unknown>, done: string): Promise<boolean> {
    busy.value = true
    failure.value = ''
    try {
      await work()
      undoBar.offer(done)
      return true
    } catch (cause) {
      if (!(cause instanceof ApiProblem)) throw cause
      failure.value =
        cause.fields.map((error) => `${error.message} ${error.remedy}`).join(' ') || cause.message
      return false
    } finally {
      await refresh()
      busy.value = false
    }
  }

  /** A record says again what it said; `newest` is how it stands. */
  function restore(change: Change, newest: Change) {
    const at = {
      params: { path: { id: change.record_id }, header: { 'If-Match': `"${newest.version}"` } },
    }
    const send = {
      study: () => {
        const { reference, reference_id, population, setup, note } = change.content as StudyInput
        const body = { reference, reference_id, population, setup, note }
        return api.PUT('/api/v1/studies/{id}', { ...at, body })
      },
      result: () =>
        newest.action === 'deleted'
          ? api.POST('/api/v1/results/{id}/restore', at)
          : api.PUT('/api/v1/results/{id}', {
              ...at,
              body: { result: accuracyInput(change.content as AccuracyResult) },
            }),
      agreement: () =>
        newest.action === 'deleted'
          ? api.POST('/api/v1/agreements/{id}/restore', at)
          : api.PUT('/api/v1/agreements/{id}', {
              ...at,
              body: { agreement: agreementInput(change.content as AgreementInput) },
            }),
      structure: () => api.PUT('/api/v1/structures/{id}', { ...at, body: change.content as StructureInput }),
      condition: () => api.PUT('/api/v1/conditions/{id}', { ...at, body: change.content as ConditionInput }),
      plan: () => api.PUT('/api/v1/plans/{id}', { ...at, body: change.content as ExaminationPlanInput }),
      teaching_conflict: () =>
        newest.action === 'deleted'
          ? api.POST('/api/v1/teaching-conflicts/{id}/restore', at)
          : api.PUT('/api/v1/teaching-conflicts/{id}', {
              ...at,
              body: change.content as TeachingConflictInput,
            }),
    }
    const done = newest.action === 'deleted' ? text.review.undeleted : text.review.broughtBack(change.version)
    return run(send[change.kind as keyof typeof send], done)
  }

  return { busy, failure, run, restore }
}
