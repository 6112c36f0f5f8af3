import { beforeEach, describe, expect, it, vi } from 'vitest'
import { nextTick, ref } from 'vue'

import type { RawCounts, StudyAccuracy } from '@/shared/api/types'
import { useLiveAccuracy } from './useLiveAccuracy'

const asked: { cells: RawCounts; signal: AbortSignal; answer: (value: StudyAccuracy) => void }[] = []
vi.mock('@/shared/api/queries', () => ({
  askAccuracy: (cells: RawCounts, signal: AbortSignal) =>
    new Promise((resolve) => asked.push({ cells, signal, answer: resolve })),
}))

const answerOf = (youden: number) => ({ youden, notes: [] }) as unknown as StudyAccuracy

beforeEach(() => {
  vi.useFakeTimers()
  asked.length = 0
})

async function rest() {
  await nextTick()
  await vi.advanceTimersByTimeAsync(200)
}

describe('useLiveAccuracy', () => {
  it('asks nothing while a group is half typed', async () => {
    const cells = ref<RawCounts>({ tp: null, fp: null, fn: null, tn: null })
    useLiveAccuracy(cells)
    cells.value = { ...cells.value, tp: 20 }
    await rest()
    expect(asked).toHaveLength(0)
    cells.value = { ...cells.value, fn: 5 }
    await rest()
    expect(asked.map((one) => one.cells)).toEqual([{ tp: 20, fp: null, fn: 5, tn: null }])
  })

  it('shows the answer to the latest cells only', async () => {
    const cells = ref<RawCounts>({ tp: 1, fp: 1, fn: 1, tn: 1 })
    const { accuracy } = useLiveAccuracy(cells)
    cells.value = { tp: 2, fp: 1, fn: 1, tn: 1 }
    await rest()
    cells.value = { tp: 3, fp: 1, fn: 1, tn: 1 }
    await rest()
    expect(asked).toHaveLength(2)
    expect(asked[0]!.signal.aborted).toBe(true)
    asked[1]!.answer(answerOf(0.3))
    await rest()
    asked[0]!.answer(answerOf(0.2))
    await rest()
    expect(accuracy.value?.youden).toBe(0.3)
  })

  it('forgets the answer when the cells are cleared', async () => {
    const cells = ref<RawCounts>({ tp: 1, fp: 1, fn: 1, tn: 1 })
    const { accuracy } = useLiveAccuracy(cells)
    cells.value = { tp: 2, fp: 1, fn: 1, tn: 1 }
    await rest()
    asked[0]!.answer(answerOf(0.2))
    await rest()
    expect(accuracy.value).not.toBeNull()
    cells.value = { tp: null, fp: null, fn: null, tn: null }
    await rest()
    expect(accuracy.value).toBeNull()
  })
})
