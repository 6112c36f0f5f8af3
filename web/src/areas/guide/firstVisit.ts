import { reactive } from 'vue'

const KEY = 'pruvex-first-visit'
const ENDED = 'ended'

function kept(): string | null {
  try {
    return localStorage.getItem(KEY)
  } catch {
    // Without a store it could not be ended for good: then it does not begin.
    return ENDED
  }
}
function keep(value: string) {
  try {
    localStorage.setItem(KEY, value)
  } catch {
    // Ended for this page at least.
  }
}
const before = kept()

/** How far somebody has come in the first visit; ended for good in this browser. */
export const firstVisit = reactive({
  step: Number(before) || 0,
  ended: before === ENDED,
  go(step: number) {
    firstVisit.step = step
    keep(String(step))
  },
  end() {
    firstVisit.ended = true
    keep(ENDED)
  },
})
