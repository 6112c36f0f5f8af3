import { computed, onScopeDispose, ref } from 'vue'

import { ApiProblem, api, data } from './api/client'
import { refresh } from './api/queries'
import type { ImportView } from './api/types'
import { text } from './text'

const OUTAGES = ['server_unreachable', 'database_unavailable']
/** So often it is asked how an import goes on. */
const PAUSE = 200

export const isEnded = (view: ImportView) => view.state !== 'waiting' && view.state !== 'busy'

const of = (id: string) => ({ params: { path: { id } } })

/** Nothing while the server is away: the page says so, and the import goes on without being watched. */
async function asked(id: string): Promise<ImportView | null> {
  try {
    return data(await api.GET('/api/v1/imports/{id}', of(id)))
  } catch (cause) {
    if (cause instanceof ApiProblem && OUTAGES.includes(cause.code)) return null
    throw cause
  }
}

/** An import that ended without bringing anything: stopped, refused for faults of its file, or broken off. */
class ImportEnded extends ApiProblem {
  constructor(view: ImportView | null) {
    const { faults = [], why = null, state = 'stopped' } = view ?? {}
    const [title = '', ...more] = (
      state === 'stopped' ? text.importRun.stopped : (why ?? text.importRun.failed)
    ).split('. ')
    const detail = more.join('. ')
    super({
      type: 'about:blank',
      title,
      status: 0,
      detail,
      code: `import_${state}`,
      request_id: '',
      errors: faults,
    })
  }
}

/** Undoes an import that landed as one; refused once anything was changed or built on it. */
export async function takeBackImport(id: string): Promise<void> {
  await api.POST('/api/v1/imports/{id}/taking-back', of(id))
  await refresh()
}

/** An import by the server: followed to its end, and stopped when its page is left. */
export function useImportRun() {
  /** The import under way, or how the last one ended. */
  const run = ref<ImportView | null>(null)
  const running = computed(() => Boolean(run.value && !isEnded(run.value)))
  let gone = false

  /** Begins one and follows it; answers how it ended, or nothing when its page was left. */
  async function follow(begin: () => Promise<ImportView>): Promise<ImportView | null> {
    run.value = await begin()
    // A short one is over before anybody could read what it does.
    for (let pause = PAUSE / 8; run.value && !isEnded(run.value) && !gone; pause = PAUSE) {
      await new Promise((later) => setTimeout(later, pause))
      if (run.value && !isEnded(run.value) && !gone) run.value = (await asked(run.value.id)) ?? run.value
    }
    return run.value && isEnded(run.value) ? run.value : null
  }
  /** Begins one in the place of one under way; answers what it brought, or would bring. One that brought nothing was refused. */
  async function brought<Found>(
    begin: () => Promise<ImportView>,
    of: (view: ImportView) => Found | null | undefined,
  ): Promise<Found> {
    await stop()
    const ended = await follow(begin)
    const found = ended && of(ended)
    if (found) return found
    throw new ImportEnded(ended)
  }
  /** The answer says how it ended: it may have come to its end before. */
  async function stop() {
    const { value: known } = run
    if (!known || isEnded(known)) return
    run.value = data(await api.DELETE('/api/v1/imports/{id}', of(known.id))) ?? run.value
  }
  onScopeDispose(() => {
    gone = true
    // Whoever has gone is told nothing any more.
    stop().catch(() => undefined)
  })
  return { run, running, follow, brought, stop }
}
