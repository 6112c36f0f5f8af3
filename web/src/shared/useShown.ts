import { ref, type Ref } from 'vue'

import { useOnceOpened } from './useOnceOpened'

/** A form that is opened for one record, or for a new one; `asked` holds from the first time on, so that nobody waits for it before. */
export function useShown<T>() {
  const open = ref(false)
  const shown = ref(null) as Ref<T | null>
  function show(record: T | null) {
    shown.value = record
    open.value = true
  }
  return { open, shown, show, asked: useOnceOpened(() => open.value) }
}
