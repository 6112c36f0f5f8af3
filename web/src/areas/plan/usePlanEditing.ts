import { computed, ref, watch } from 'vue'
import { useRoute } from 'vue-router'

import { api, ApiProblem, data } from '@/shared/api/client'
import { useConditions, usePlan, useRegions } from '@/shared/api/queries'
import type { PlanView } from '@/shared/api/types'
import { moment } from '@/shared/format'
import { useQuestion } from '@/shared/question/useQuestion'
import { text } from '@/shared/text'
import { undoBar } from '@/shared/undo'
import { forget, keep, keptBefore } from '@/shared/unsaved'
import { copy } from '@/shared/copy'
import { useAutosave } from '@/shared/useAutosave'
import { useEditingHistory } from '@/shared/useEditingHistory'
import { useSaving } from '@/shared/useSaving'
import { blankPlan, inProposedOrder, planDraft, type PlanDraft, resumedPlan } from './planDraft'
import { isProposed } from './planWords'
import { usePlanOrder } from './usePlanOrder'

/** Writing a new plan, or one that was read at a version. What is typed is kept, also over a reload; `done` is told of what was saved. */
export function usePlanEditing(id: string | undefined, done: (saved: PlanView) => unknown) {
  const route = useRoute()
  const { region, condition, preTest } = useQuestion()
  // Which region and condition the address means is known once both are.
  const [regions, conditions] = [useRegions(), useConditions()]
  const from = String(route.query.from ?? '')
  const stored = usePlan(
    () => id ?? from,
    () => !!(id ?? from),
  )
  /** Under which it is kept while it is not saved. */
  const place = id ?? 'new'
  const draft = ref<PlanDraft | null>(null)
  const resumed = ref('')
  /** The tests follow the proposed order, until somebody moves one. */
  const follow = ref(!id)
  const saving = useSaving(text.plan.form.conflict)
  const { begin: beginHistory, ...history } = useEditingHistory(draft, () => void save())
  const { answer, faults: orderFaults } = usePlanOrder(draft)
  let pristine = ''

  const keeping = useAutosave<PlanDraft>({
    of: draft,
    typed: () => draft.value,
    send: async (typed) => {
      // Back at the saved text by undo: nothing is left to go on with.
      if (JSON.stringify(typed) === pristine) await forget('plan', place)
      else await keep('plan', place, saving.version.value || null, typed)
    },
  })

  function fresh(): PlanDraft {
    const read = stored.data.value
    if (!read) return blankPlan(region.value, condition.value?.name ?? '', preTest.value)
    return id ? planDraft(read) : { ...planDraft(read), title: text.plan.copyOf(read.title) }
  }
  async function begin(goOn: boolean) {
    let left = null
    try {
      left = goOn ? await keptBefore<PlanDraft>('plan', place) : null
    } catch (cause) {
      // The page says already that the server is away; the form can be filled in meanwhile.
      if (!(cause instanceof ApiProblem)) throw cause
    }
    const start = fresh()
    pristine = JSON.stringify(start)
    const again = !!left && JSON.stringify(left.content) !== pristine
    resumed.value = again && left ? moment(left.at) : ''
    saving.begin((again ? left?.version : null) ?? (id ? stored.data.value?.version : undefined))
    // What was left by hand in another order stays in it.
    if (again) follow.value = false
    draft.value = again && left ? resumedPlan(left.content) : start
    keeping.begin()
    beginHistory()
  }
  async function beginAnew() {
    await forget('plan', place)
    follow.value = !id
    await begin(false)
  }
  let begun = false
  watch(
    [stored.data, () => regions.isFetched.value && conditions.isFetched.value],
    ([read, known]) => {
      // What came first is what is being edited: a later refetch must not replace what was typed.
      if (begun || (id || from ? !read : !known)) return
      begun = true
      void begin(true)
    },
    { immediate: true },
  )
  watch(answer, (said) => {
    const plan = draft.value
    if (plan && said && follow.value && !isProposed(said)) plan.tests = inProposedOrder(plan.tests, said)
  })

  async function save() {
    const plan = draft.value
    if (!plan) return
    await keeping.rest()
    let kept: PlanView | null = null
    const body = copy(plan)
    const saved = await saving.save(async (header) => {
      kept = data(
        id
          ? await api.PUT('/api/v1/plans/{id}', { params: { path: { id }, header }, body })
          : await api.POST('/api/v1/plans', { body }),
      )
      await forget('plan', place)
    })
    if (saved && kept) {
      pristine = JSON.stringify(plan)
      keeping.pending.value = false
      undoBar.offer(text.plan.form.saved)
      await done(kept)
    } else {
      keeping.resume()
    }
  }
  return {
    stored,
    draft,
    answer,
    orderFaults,
    resumed,
    follow,
    beginAnew,
    save,
    of: saving.of,
    errors: saving.errors,
    saving: saving.saving,
    failure: computed(() => {
      const { length } = saving.errors.value
      return saving.failure.value || (length ? text.plan.form.faults(length) : '')
    }),
    ...history,
    pending: keeping.pending,
    keptAt: keeping.keptAt,
  }
}
