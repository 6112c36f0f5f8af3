import { reactive } from 'vue'

type Cause = 'server' | 'database'

const RETRY_MILLISECONDS = 2000

/**
 * Whether the server or its database is away. While it is, the page stays as it is, a banner says so, and a quiet
 * question every two seconds notices when it is back.
 */
export const outage = reactive({
  cause: null as Cause | null,
  recovered: null as (() => void) | null,
  timer: undefined as ReturnType<typeof setTimeout> | undefined,

  begin(cause: Cause) {
    outage.cause = cause
    clearTimeout(outage.timer)
    outage.timer = setTimeout(() => void outage.ask(), RETRY_MILLISECONDS)
  },

  async ask() {
    try {
      const answer = await fetch('/readyz', { cache: 'no-store' })
      if (!answer.ok) return outage.begin('database')
      outage.cause = null
      outage.recovered?.()
    } catch {
      outage.begin('server')
    }
  },
})
