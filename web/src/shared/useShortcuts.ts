import { useEventListener } from '@vueuse/core'

/**
 * Single keys that act while nobody is typing and no dialog is open. They go by the sign that was typed: Vuetify's `useHotkey` also
 * compares Shift, and on many keyboards `/` is Shift and 7.
 */
export function useShortcuts(keys: Record<string, (event: KeyboardEvent) => void>): void {
  function onKey(event: KeyboardEvent) {
    if (event.ctrlKey || event.metaKey || event.altKey || event.defaultPrevented) return
    const target = event.target as HTMLElement
    if (target.closest('input, textarea, select, [contenteditable], [role="combobox"]')) return
    if (document.querySelector('.v-overlay--active[role="dialog"], .v-dialog.v-overlay--active')) return
    const act = keys[event.key.length === 1 ? event.key.toLowerCase() : event.key]
    if (!act) return
    event.preventDefault()
    act(event)
  }
  useEventListener('keydown', onKey)
}
