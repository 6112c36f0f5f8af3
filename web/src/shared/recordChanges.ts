import { ApiProblem } from './api/client'
import { refresh } from './api/queries'
import { undoBar } from './undo'

/** A record at the version that was read: somebody else's change is never written over. */
export const at = (id: string, version: number) => ({
  params: { path: { id }, header: { 'If-Match': `"${version}"` } },
})

/** A refusal is told in words, beside the list as it stands. */
export async function reported(work: () => Promise<void>): Promise<void> {
  try {
    await work()
  } catch (cause) {
    if (!(cause instanceof ApiProblem)) throw cause
    undoBar.offer(cause.message)
  }
  await refresh()
}

/** Deletes a record, and offers to bring it back at the version that the deletion left. */
export const removeWithUndo = (
  said: string,
  remove: () => Promise<{ version: number }>,
  restore: (version: number) => Promise<unknown>,
) =>
  reported(async () => {
    const { version } = await remove()
    undoBar.offer(said, async () => {
      await restore(version)
      await refresh()
    })
  })
