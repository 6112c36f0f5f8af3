import { ref, type Ref, shallowRef } from 'vue'

import { refresh } from './api/queries'
import { useAttempt } from './useAttempt'

/**
 * A file on its way in: what it would bring is looked at first, some entries are decided about, and then it comes in whole or not at
 * all. `send` is given the decisions, or nothing when it is only to look.
 */
export function useFileImport<Preview, Decision>(
  send: (file: File, decided: Decision[] | null) => Promise<Preview>,
) {
  const { faults, failure, busy, clear, attempt } = useAttempt()
  const file = shallowRef<File | null>(null)
  const preview = ref(null) as Ref<Preview | null>
  const decided = ref([]) as Ref<Decision[]>

  function forget() {
    clear()
    file.value = null
    preview.value = null
    decided.value = []
  }
  async function choose(picked: File) {
    forget()
    file.value = picked
    const seen = await attempt(() => send(picked, null))
    // Another file may have been chosen meanwhile.
    if (file.value === picked) preview.value = seen ?? null
  }
  /** Answers what came in, or nothing when it was refused. */
  async function bring(): Promise<Preview | undefined> {
    const { value: chosen } = file
    if (!chosen) return undefined
    const brought = await attempt(() => send(chosen, decided.value))
    if (!brought) return undefined
    forget()
    await refresh()
    return brought
  }
  return { file, preview, decided, faults, failure, busy, forget, choose, bring }
}
