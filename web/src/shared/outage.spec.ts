import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'

import { outage } from './outage'

const answer = (ok: boolean) => Promise.resolve({ ok } as Response)

beforeEach(() => {
  vi.useFakeTimers()
  outage.cause = null
  outage.recovered = null
})
afterEach(() => {
  vi.unstubAllGlobals()
  vi.clearAllTimers()
})

describe('an outage', () => {
  it('is asked about every two seconds until it is over, and told once', async () => {
    const answers = [() => answer(false), () => Promise.reject(new Error('refused')), () => answer(true)]
    const fetch = vi.fn(() => answers.shift()!())
    vi.stubGlobal('fetch', fetch)
    outage.recovered = vi.fn()

    outage.begin('database')
    expect(outage.cause).toBe('database')
    await vi.advanceTimersByTimeAsync(1999)
    expect(fetch).not.toHaveBeenCalled()
    await vi.advanceTimersByTimeAsync(1)
    expect(outage.cause).toBe('database')
    await vi.advanceTimersByTimeAsync(2000)
    expect(outage.cause).toBe('server')
    expect(outage.recovered).not.toHaveBeenCalled()
    await vi.advanceTimersByTimeAsync(2000)
    expect(outage.cause).toBeNull()
    expect(outage.recovered).toHaveBeenCalledTimes(1)
    await vi.advanceTimersByTimeAsync(10_000)
    expect(fetch).toHaveBeenCalledTimes(3)
  })

  it('noticed by many requests at once is asked about once', async () => {
    const fetch = vi.fn(() => answer(true))
    vi.stubGlobal('fetch', fetch)
    outage.begin('server')
    outage.begin('server')
    outage.begin('database')
    await vi.advanceTimersByTimeAsync(2000)
    expect(fetch).toHaveBeenCalledTimes(1)
  })
})
