import { ref } from 'vue'

import { ApiProblem } from './api/client'
import { refresh } from './api/queries'
import type { FieldError } from './api/types'

/** Saving a record at the version that was read: refusals stand beside their fields; who was slower is told and keeps the words.
 *  `elsewhere` takes the version when it was another record of the same form that was saved meanwhile. */
export function useSaving(conflict: string, elsewhere?: (what: string, version: number) => boolean) {
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
        const now = cause.problem.current_version ?? version.value
        if (!elsewhere?.(cause.problem.changed ?? '', now)) version.value = now
        failure.value = conflict
        await refresh()
      }
      return false
    } finally {
      saving.value = false
    }
  }
  return { version, errors, failure, saving, begin, of, save }
}
