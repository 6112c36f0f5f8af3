import { ref, watch, type Ref } from 'vue'

import { ApiProblem } from '@/shared/api/client'
import { text } from '@/shared/text'
import { undoBar } from '@/shared/undo'
import { forget, keep, keptBefore, type What } from '@/shared/unsaved'
import { useAutosave } from '@/shared/useAutosave'

/** Keeps the form of a dialog as it is typed; who opens it again goes on with what was left. */
export function useKeptForm<T>(form: {
  open: Ref<boolean>
  what: () => What
  /** The record that is corrected, or for a new one where it goes. */
  place: () => string
  /** The form with what is saved, or empty. */
  fill: () => void
  of: Ref[]
  typed: () => T
  take: (left: T) => void
  /** The version it began from. */
  version: Ref<number>
}) {
  /** What was left is known, and the form can be shown. */
  const ready = ref(false)
  /** What is typed is to be kept. */
  let keepIt = false
  /** When what stands here was left, if it was taken up again. */
  const resumed = ref('')
  let pristine = ''
  let [what, at] = [form.what(), '']
  let openings = 0
  const said = () => JSON.stringify(form.typed())

  const { keptAt, pending, ...keeping } = useAutosave<T>({
    of: form.of,
    typed: () => (keepIt ? form.typed() : null),
    send: async (typed) => {
      // Back at what is saved: nothing is left to go on with.
      if (JSON.stringify(typed) === pristine) await forget(what, at)
      else await keep(what, at, form.version.value, typed)
    },
  })

  /** Begins with what is saved, or with what was left of it. */
  async function begin() {
    openings += 1
    const mine = openings
    keepIt = false
    ready.value = false
    resumed.value = ''
    form.fill()
    what = form.what()
    at = form.place()
    pristine = said()
    let left = null
    try {
      left = await keptBefore<T>(what, at)
    } catch (cause) {
      // The page says already that the server is away; the form can be filled in meanwhile.
      if (!(cause instanceof ApiProblem)) throw cause
    }
    if (mine !== openings) return
    if (left && JSON.stringify(left.content) !== pristine) {
      form.take(left.content)
      form.version.value = left.version ?? form.version.value
      resumed.value = left.at
    }
    ready.value = true
    keepIt = true
    keeping.begin()
    keeping.resume()
  }
  /** Answers what was typed, if it is not what is saved, and how to keep it again. */
  async function end(): Promise<(() => Promise<void>) | null> {
    const [typed, version, kind, place] = [said(), form.version.value, what, at]
    const lost = keepIt && typed !== pristine
    openings += 1
    keepIt = false
    pending.value = false
    await keeping.rest()
    try {
      await forget(kind, place)
    } catch (cause) {
      if (!(cause instanceof ApiProblem)) throw cause
    }
    return lost ? () => keep(kind, place, version, JSON.parse(typed)) : null
  }
  async function anew() {
    await end()
    await begin()
  }
  /** What was typed is saved: nothing is left to go on with. */
  async function saved() {
    await end()
    form.open.value = false
  }
  async function cancel() {
    const [again, of] = [await end(), at]
    form.open.value = false
    if (!again) return
    undoBar.offer(text.study.discarded, async () => {
      await again()
      // Another form may stand here by now; it is kept all the same.
      if (form.place() === of) form.open.value = true
    })
  }
  watch(form.open, (opened) => opened && void begin(), { immediate: true })
  return { ready, resumed, keptAt, pending, anew, saved, cancel }
}
