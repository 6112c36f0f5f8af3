import { describe, expect, it, vi } from 'vitest'

import { ApiProblem } from './api/client'
import { problem } from './mount.setup'
import { useFileImport } from './useFileImport'

const named = (name: string) => new File(['x'], name)

describe('a file on its way in', () => {
  it('shows what the file that was chosen last would bring, whichever answer comes first', async () => {
    const answers = new Map<string, (preview: string) => void>()
    const send = (file: File) => new Promise<string>((answer) => answers.set(file.name, answer))
    const { choose, preview, file } = useFileImport(send)
    const both = [choose(named('first')), choose(named('second'))]
    answers.get('second')?.('of the second')
    answers.get('first')?.('of the first')
    await Promise.all(both)
    expect([file.value?.name, preview.value]).toEqual(['second', 'of the second'])
  })

  it('tells nothing of a file that is no longer the chosen one', async () => {
    const refusals = new Map<string, (why: unknown) => void>()
    const send = (file: File) => new Promise<string>((_, refuse) => refusals.set(file.name, refuse))
    const { choose, busy, failure } = useFileImport(send)
    const both = [choose(named('first')), choose(named('second'))]
    refusals.get('first')?.(new ApiProblem(await problem(400, 'of the first').json()))
    await both[0]
    expect([busy.value, failure.value]).toEqual([true, ''])
    refusals.get('second')?.(new ApiProblem(await problem(400, 'of the second').json()))
    await both[1]
    expect([busy.value, failure.value]).toEqual([false, 'of the second. '])
  })

  it('keeps file and decisions when it is refused, and forgets them once it is in', async () => {
    const fault = {
      field: 'tests[0]',
      code: 'invalid',
      value: '',
      message: 'Wrong.',
      remedy: 'Mend it.',
    } as const
    const refusal = new ApiProblem(await problem(422, 'fields_invalid', [fault]).json())
    const send = vi.fn(async (_: File, decided: string[] | null) => decided?.join() ?? 'preview')
    const { choose, bring, decided, faults, failure, file, preview } = useFileImport(send)
    await choose(named('a'))
    decided.value = ['one', 'two']
    send.mockRejectedValueOnce(refusal)
    expect(await bring()).toBeUndefined()
    expect([faults.value.length, failure.value, file.value?.name, preview.value]).toEqual([
      1,
      '',
      'a',
      'preview',
    ])
    expect(await bring()).toBe('one,two')
    expect([faults.value, file.value, preview.value, decided.value]).toEqual([[], null, null, []])
  })
})
