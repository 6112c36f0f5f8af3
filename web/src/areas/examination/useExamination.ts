import { computed, onScopeDispose, ref, shallowRef, watch } from 'vue'

import { api, ApiProblem, data } from '@/shared/api/client'
import { askExamination } from '@/shared/api/queries'
import type {
  ExaminationConduct,
  ExaminationView,
  FieldError,
  PatientFitInput,
  ScreeningAnswer,
  TestConduct,
} from '@/shared/api/types'
import { copy } from '@/shared/copy'
import { outage } from '@/shared/outage'
import { at } from '@/shared/recordChanges'
import { session } from '@/shared/session/session'
import { forgetHere, keepHere, keptHere } from './onThisDevice'

interface Entries {
  patient: PatientFitInput
  conduct: ExaminationConduct
}
/** Until what the server could not keep is sent again. */
const AGAIN = 10_000
/** Steps that can be undone. */
const MOST = 100

/**
 * An examination that goes on. Every entry is kept on this device at once and sent after it; what cannot be sent, because the connection or the
 * session is gone, is sent when it is back.
 */
export function useExamination(id: string) {
  /** As the server knows it: readings and probabilities are those of what it has. */
  const view = shallowRef<ExaminationView | null>(null)
  const entries = ref<Entries | null>(null)
  const failure = shallowRef<unknown>(null)
  const faults = ref<FieldError[]>([])
  /** Why entries were not kept, where no field is at fault: they are sent again. */
  const trouble = ref('')
  let again: ReturnType<typeof setTimeout> | undefined
  let gone = false
  const unsent = ref(false)
  const sending = ref(false)
  const notHere = ref(false)
  /** The version that was saved elsewhere meanwhile. */
  const conflict = ref<number | null>(null)
  const past = ref<string[]>([])
  let version = 0

  function take(from: ExaminationView) {
    view.value = from
    version = from.version
  }
  async function load() {
    failure.value = null
    try {
      const read = await askExamination(id)
      take(read)
      const left = read.finished_at || !read.own ? null : keptHere(id)
      entries.value = copy({ patient: left?.patient ?? read.patient, conduct: left?.conduct ?? read.conduct })
      past.value = []
      if (!left) return
      // The server tells whether it has them already, since only its answer was lost, or something else was saved meanwhile.
      version = left.version
      unsent.value = true
      await send()
    } catch (cause) {
      if (!(cause instanceof ApiProblem)) throw cause
      failure.value = cause
    }
  }
  function keep() {
    unsent.value = true
    if (entries.value) notHere.value = !keepHere(id, { version, ...copy(entries.value) })
  }
  /** Changes what was entered; it can be undone. */
  function change(work: (to: Entries) => void) {
    if (!entries.value) return
    past.value = [...past.value.slice(1 - MOST), JSON.stringify(entries.value)]
    work(entries.value)
    keep()
    void send()
  }
  function undo() {
    const last = past.value.at(-1)
    if (!last) return
    past.value = past.value.slice(0, -1)
    entries.value = JSON.parse(last) as Entries
    keep()
    void send()
  }
  async function send(): Promise<void> {
    if (sending.value || conflict.value !== null) return
    sending.value = true
    trouble.value = ''
    clearTimeout(again)
    try {
      while (unsent.value && entries.value) {
        const sent = JSON.stringify(entries.value)
        const body = JSON.parse(sent) as Entries
        take(data(await api.PUT('/api/v1/examinations/{id}', { ...at(id, version), body })))
        faults.value = []
        if (JSON.stringify(entries.value) !== sent) keep()
        else {
          unsent.value = false
          forgetHere(id)
        }
      }
    } catch (cause) {
      if (!(cause instanceof ApiProblem)) throw cause
      if (cause.code === 'changed_meanwhile') conflict.value = cause.problem.current_version ?? version
      else faults.value = cause.fields
      // An outage has its own notice, and tells when it is over.
      if (cause.code !== 'changed_meanwhile' && !cause.fields.length && !outage.cause && !session.expired) {
        trouble.value = cause.message
        if (!gone) again = setTimeout(() => void send(), AGAIN)
      }
    } finally {
      sending.value = false
    }
  }
  /** Of two devices the entries of this one stand. */
  async function keepMine() {
    version = conflict.value ?? version
    conflict.value = null
    keep()
    await send()
  }
  async function takeTheirs() {
    forgetHere(id)
    conflict.value = null
    unsent.value = false
    await load()
  }
  /** Answers whether it is finished; else the faults say why not. */
  async function finish(): Promise<boolean> {
    await send()
    if (unsent.value) return false
    try {
      take(data(await api.POST('/api/v1/examinations/{id}/finish', at(id, version))))
      faults.value = []
      return true
    } catch (cause) {
      if (!(cause instanceof ApiProblem)) throw cause
      if (cause.code === 'changed_meanwhile') conflict.value = cause.problem.current_version ?? version
      else faults.value = cause.fields
      return false
    }
  }
  watch([() => outage.cause, () => session.expired], ([away, expired]) => {
    if (away || expired) return
    if (!view.value) void load()
    else if (unsent.value) void send()
  })
  onScopeDispose(() => {
    gone = true
    clearTimeout(again)
  })
  void load()

  return {
    view,
    entries,
    failure,
    load,
    faults,
    trouble,
    send,
    unsent,
    sending,
    notHere,
    conflict: computed(() => conflict.value !== null),
    keepMine,
    takeTheirs,
    change,
    /** Answers a screening question; the same said again takes it back. */
    answer: (key: string, to: ScreeningAnswer) =>
      change(({ patient }) => {
        const { [key]: said, ...others } = patient.answers
        patient.answers = said === to ? others : { ...others, [key]: to }
      }),
    undo,
    canUndo: computed(() => past.value.length > 0),
    finish,
    /** What was written of a test; nothing before its first entry. */
    of: (test: string) => entries.value?.conduct.tests.find((it) => it.test === test) ?? null,
    /** The entry of a test, begun where there is none. */
    begun: (to: Entries, test: string): TestConduct => {
      const known = to.conduct.tests.find((it) => it.test === test)
      if (known) return known
      to.conduct.tests.push({ test, attempts: [], skipped: false, reason: '' })
      return to.conduct.tests.at(-1)!
    },
  }
}
export type Running = ReturnType<typeof useExamination>
