import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { effectScope, nextTick, ref } from 'vue'

import { useEditingHistory } from './useEditingHistory'

describe('undoing what was typed', () => {
  let scope = effectScope()
  beforeEach(() => {
    vi.useFakeTimers()
    scope = effectScope()
  })
  afterEach(() => {
    scope.stop()
    vi.useRealTimers()
  })
  const rest = async () => {
    await nextTick()
    await vi.advanceTimersByTimeAsync(1000)
  }

  it('goes back to what stood there when it began, and not further', async () => {
    const draft = ref<{ name: string } | null>(null)
    const used = scope.run(() => useEditingHistory(draft, () => {}))!
    await nextTick()
    draft.value = { name: 'Thumb lift' }
    used.begin()
    await rest()
    expect(used.canUndo.value).toBe(false)
    used.undo()
    expect(draft.value).toEqual({ name: 'Thumb lift' })
    draft.value.name = 'Thumb press'
    await rest()
    expect(used.canUndo.value).toBe(true)
    used.undo()
    expect(draft.value).toEqual({ name: 'Thumb lift' })
    await rest()
    expect([used.canUndo.value, used.canRedo.value]).toEqual([false, true])
    used.redo()
    expect(draft.value).toEqual({ name: 'Thumb press' })
  })

  it('keeps what is typed right after it began, and obeys the keys', async () => {
    const draft = ref<{ name: string } | null>(null)
    const save = vi.fn()
    const used = scope.run(() => useEditingHistory(draft, save))!
    draft.value = { name: 'A' }
    used.begin()
    await nextTick()
    draft.value.name = 'B'
    await rest()
    const press = (key: string, more = {}) =>
      window.dispatchEvent(new KeyboardEvent('keydown', { key, ctrlKey: true, ...more }))
    press('z')
    expect(draft.value).toEqual({ name: 'A' })
    press('Z', { shiftKey: true })
    expect(draft.value).toEqual({ name: 'B' })
    press('s')
    press('x')
    window.dispatchEvent(new KeyboardEvent('keydown', { key: 's' }))
    expect(save).toHaveBeenCalledTimes(1)
  })
})
