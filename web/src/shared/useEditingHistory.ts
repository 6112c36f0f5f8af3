import { useDebouncedRefHistory, useEventListener } from '@vueuse/core'
import type { Ref } from 'vue'

import { copy } from './copy'

/** What was typed can be undone and redone, back to what stood there when it began and not further; with the keys for that and for saving. */
export function useEditingHistory<T>(draft: Ref<T>, save: () => unknown) {
  const history = useDebouncedRefHistory(draft, { deep: true, clone: copy, capacity: 200, debounce: 400 })
  const { undo, redo, canUndo, canRedo } = history

  /** From here on; what stands here is not undone. */
  function begin() {
    // What was there before would be kept a moment later, unless this counts as kept first.
    history.commit()
    history.clear()
  }
  useEventListener('keydown', (event: KeyboardEvent) => {
    if (!(event.ctrlKey || event.metaKey)) return
    const key = event.key.toLowerCase()
    if (key === 's') save()
    else if (key === 'z' && event.shiftKey) redo()
    else if (key === 'z') undo()
    else if (key === 'y') redo()
    else return
    event.preventDefault()
  })
  return { begin, undo, redo, canUndo, canRedo }
}
