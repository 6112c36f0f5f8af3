import { useEventListener, watchDebounced } from '@vueuse/core'
import { onBeforeUnmount, ref, watch, type WatchSource } from 'vue'

import { ApiProblem } from './api/client'

/** Keeps what is typed into a form a moment after the typing stops, one text after the other: a slow answer must not put an earlier
 *  text over a later one. */
export function useAutosave<T>(form: {
  /** What the text is made of. */
  of: WatchSource | WatchSource[]
  /** The text as it stands; nothing while there is no form. */
  typed: () => T | null
  send: (typed: T) => Promise<void>
  /** The server did not take it. */
  refused?: (problem: ApiProblem) => void
}) {
  /** When it was kept last. */
  const keptAt = ref('')
  /** Something was typed that is not kept yet. */
  const pending = ref(false)
  /** The text that the server has. */
  let last = ''
  let keeping = Promise.resolve()
  let resting = false
  const said = () => JSON.stringify(form.typed())

  /** From here on the server has what stands here. */
  function begin() {
    last = said()
    pending.value = false
    keptAt.value = ''
  }
  function keepNow() {
    const typed = form.typed()
    if (typed === null || resting || !pending.value) return
    const copy = JSON.parse(JSON.stringify(typed)) as T
    keeping = keeping.then(() => keepText(copy))
  }
  async function keepText(typed: T) {
    if (JSON.stringify(typed) === last) return
    try {
      await form.send(typed)
      last = JSON.stringify(typed)
      keptAt.value = new Date().toISOString()
      pending.value = form.typed() !== null && last !== said()
    } catch (cause) {
      // When the server is away the page says so already, and the next change tries again.
      if (!(cause instanceof ApiProblem)) throw cause
      form.refused?.(cause)
    }
  }
  /** Keeps nothing more until it is resumed, and waits for what is on its way: saving must not meet its own text. */
  async function rest() {
    resting = true
    await keeping
  }
  function resume() {
    resting = false
    keepNow()
  }
  watch(form.of, () => (pending.value = form.typed() !== null && said() !== last), { deep: true })
  watchDebounced(form.of, keepNow, { deep: true, debounce: 1200, maxWait: 5000 })
  useEventListener('beforeunload', (event) => pending.value && event.preventDefault())
  onBeforeUnmount(keepNow)
  return { keptAt, pending, begin, rest, resume }
}
