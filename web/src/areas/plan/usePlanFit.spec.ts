import { describe, expect, it } from 'vitest'

import { atAddress } from '@/shared/question/atAddress.setup'
import { usePlanFit } from './usePlanFit'

describe('a patient in the address', () => {
  it('passes over what nobody could have said', async () => {
    const { used: state } = await atAddress(
      usePlanFit,
      '/?fit=true&said=k.yes&said=l.maybe&said=m&irritable=7&minutes=-3&cannot=sitting&holds=s',
    )
    expect(state.open.value).toBe(true)
    expect(state.input.value).toEqual({
      answers: { k: 'yes' },
      irritable: null,
      cannot_take: ['sitting'],
      lacking: [],
      minutes: null,
      situations: ['s'],
      wished: [],
    })
  })

  it('takes an answer back that is given twice, and forgets everything for another patient', async () => {
    const { used: state, router } = await atAddress(usePlanFit, '/?fit=true&region=pelvis')
    await state.answer('k', 'no')
    await state.answer('l', 'unknown')
    await state.answer('k', 'yes')
    expect(router.currentRoute.value.query.said).toEqual(['k.yes', 'l.unknown'])
    await state.answer('k', 'yes')
    expect(state.input.value.answers).toEqual({ l: 'unknown' })
    await state.setNumber('minutes', 0)
    await state.setNumber('irritable', 2)
    await state.setList('lacking', ['Belt'])
    expect(state.input.value).toMatchObject({ minutes: 0, irritable: 2, lacking: ['Belt'] })
    await state.setList('lacking', [])
    expect(router.currentRoute.value.query.lacking).toBeUndefined()
    await state.clear()
    expect(router.currentRoute.value.query).toEqual({ fit: 'true', region: 'pelvis' })
  })
})
