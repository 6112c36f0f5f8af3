import { ref } from 'vue'

import { refresh } from './api/queries'
import { useAttempt } from './useAttempt'

/** Saving a record at the version that was read: refusals stand beside their fields; who was slower is told and keeps the words.
 *  `elsewhere` takes the version when it was another record of the same form that was saved meanwhile. */
export function useSaving(conflict: string, elsewhere?: (what: string, version: number) => boolean) {
  const version = ref(0)
  const { faults: errors, failure, busy: saving, clear, attempt } = useAttempt()

  function begin(readAt: number | undefined) {
    version.value = readAt ?? 0
    clear()
  }
  /** What is wrong with a field, that of its entries included. */
  const of = (field: string) =>
    errors.value
      .filter((error) => error.field === field || error.field.startsWith(`${field}[`))
      .map((error) => `${error.message} ${error.remedy}`)

  /** Answers whether it was saved; `send` is given the header that names the version. */
  async function save(send: (header: { 'If-Match': string }) => Promise<unknown>): Promise<boolean> {
    const saved = await attempt(
      async () => {
        await send({ 'If-Match': `"${version.value}"` })
        await refresh()
        return true
      },
      ({ code, problem }) => {
        if (code !== 'changed_meanwhile') return
        const now = problem.current_version ?? version.value
        if (!elsewhere?.(problem.changed ?? '', now)) version.value = now
        failure.value = conflict
        // Whoever is told so may save again at once; the page behind follows.
        void refresh()
      },
    )
    return saved ?? false
  }
  return { version, errors, failure, saving, begin, of, save }
}
