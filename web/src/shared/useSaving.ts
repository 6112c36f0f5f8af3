import { ref } from 'vue'

import { ApiProblem } from './api/client'
import { refresh } from './api/queries'
import type { FieldError } from './api/types'

/** Saving a record at the version that was read: refusals stand beside their fields; who was slower is told and keeps the words. */
export function useSaving(conflict: string) {
  const version = ref(0)
  const errors = ref<FieldError[]>([])
  const failure = ref('')
  const saving = ref(false)

  function begin(readAt: number | undefined) {
    version.value = readAt ?? 0
    errors.value = []
    failure.value = ''
  }
  /** What is wrong with a field, that of its entries included. */
  const of = (field: string) =>
    errors.value
      .filter((error) => error.field === field || error.field.startsWith(`${field}[`))
      .map((error) => `${error.message} ${error.remedy}`)

  /** Answers whether it was saved; `send` is given the header that names the version. */
  async function save(send: (header: { 'If-Match': string }) => Promise<unknown>): Promise<boolean> {
    saving.value = true
    errors.value = []
    failure.value = ''
    try {
      await send({ 'If-Match': `"${version.value}"` })
      await refresh()
      return true
    } catch (cause) {
      if (!(cause instanceof ApiProblem)) throw cause
      errors.value = cause.fields
      failure.value = cause.fields.length ? '' : cause.message
      if (cause.code === 'changed_meanwhile') {
        version.value = cause.problem.current_version ?? version.value
        failure.value = conflict
        await refresh()
      }
      return false
    } finally {
      saving.value = false
    }
  }
  return { version, failure, saving, begin, of, save }
}
