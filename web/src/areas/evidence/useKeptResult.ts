import { ref, type Ref } from 'vue'

import { ApiProblem } from '@/shared/api/client'
import type { AccuracyInput, RawCounts } from '@/shared/api/types'
import { forget, keep, keptBefore } from '@/shared/unsaved'
import { useKeeping } from '@/shared/useKeeping'
import type { StudyDraft } from './studyDraft'

/** The form of a result, as it is typed. */
export interface TypedResult {
  study: StudyDraft
  words: AccuracyInput
  cells: RawCounts
}

/** Keeps the form of a result as it is typed; who opens it again goes on with what was left. */
export function useKeptResult(form: {
  /** The result that is corrected, or for a new one its test. */
  place: () => string
  of: Ref[]
  typed: () => TypedResult
  take: (left: TypedResult) => void
  version: Ref<number>
}) {
  /** What was left is known, and the form can be shown. */
  const ready = ref(false)
  /** What is typed is to be kept. */
  let open = false
  /** When what stands here was left, if it was taken up again. */
  const resumed = ref('')
  let pristine = ''
  let at = ''
  let openings = 0
  const said = () => JSON.stringify(form.typed())

  const { keptAt, pending, ...keeping } = useKeeping<TypedResult>({
    of: form.of,
    typed: () => (open ? form.typed() : null),
    send: async (typed) => {
      // Back at what is saved: nothing is left to go on with.
      if (JSON.stringify(typed) === pristine) await forget('result', at)
      else await keep('result', at, form.version.value, typed)
    },
  })

  /** Begins with what stands in the form, or with what was left of it. */
  async function begin() {
    openings += 1
    const mine = openings
    open = false
    ready.value = false
    resumed.value = ''
    at = form.place()
    pristine = said()
    let left = null
    try {
      left = await keptBefore<TypedResult>('result', at)
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
    open = true
    keeping.begin()
    keeping.resume()
  }
  /** Answers what was typed, if it is not what is saved, and how to keep it again. */
  async function end(): Promise<(() => Promise<void>) | null> {
    const [typed, version, place] = [said(), form.version.value, at]
    const lost = open && typed !== pristine
    openings += 1
    open = false
    pending.value = false
    await keeping.rest()
    try {
      await forget('result', place)
    } catch (cause) {
      if (!(cause instanceof ApiProblem)) throw cause
    }
    return lost ? () => keep('result', place, version, JSON.parse(typed)) : null
  }
  return { ready, resumed, keptAt, pending, begin, end }
}
