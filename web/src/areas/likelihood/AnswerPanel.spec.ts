import { beforeEach, describe, expect, it } from 'vitest'

import type { PooledAnswer } from '@/shared/api/types'
import { enter, eventually, mounted, plain, serve } from '@/shared/mount.setup'
import AnswerPanel from './AnswerPanel.vue'

const share = (estimate: number) => ({ estimate, lower: estimate / 2, upper: Math.min(1, estimate * 1.5) })
const pooled = {
  lr_positive: share(4),
  lr_negative: share(0.3),
  warnings: [{ code: 'perfect_arm', arm: 'diseased', n: 30, upper: 0.11 }],
}
const answer = { evidence: 'one_study', sample: true, figures: 'f', pooled } as unknown as PooledAnswer

async function panel(target: string, given: PooledAnswer | null) {
  enter(['read'])
  serve({
    'GET /regions': [{ region: 'hand_wrist', tests: 1 }],
    'GET /conditions': [{ region: 'hand_wrist', name: 'Weakness', tests: 1, pre_test: 0.3, setting: '' }],
    'POST /likelihood/answers': [
      { test: 'a', changed: false, after_positive: share(0.6), after_negative: null, frequencies: null },
    ],
  })
  const query = { region: 'hand_wrist', condition: 'Weakness', pretest: '30' }
  const { wrapper } = await mounted(
    AnswerPanel,
    { id: 'a', region: 'hand_wrist', target, answer: given },
    {},
    query,
    'sheet',
  )
  return wrapper
}

describe('what a result means, on a sheet', () => {
  beforeEach(() => (document.body.innerHTML = ''))

  it('is said for both results, with what limits it, and leads on to the patient', async () => {
    const wrapper = await panel('Weakness', answer)
    await eventually(() => expect(wrapper.find('[data-test=after-positive]').exists()).toBe(true))
    const said = plain(wrapper.text())
    expect(said).toMatch(/After a positive result\s*60 %\s*30–90 %/)
    expect(said).toMatch(/After a negative result\s*not estimable/)
    expect(said).toContain('0 of 30 were missed. Up to 11 % false negatives are still compatible (95 %).')
    expect(wrapper.get('[data-test=to-patient]').attributes('href')).toMatch(/patient.*look=a/)
  })

  it('is not said for another condition, nor without a study', async () => {
    const other = await panel('Numbness', answer)
    await eventually(() => expect(other.text()).toContain('The question above is about Weakness'))
    expect(other.find('[data-test=after-positive]').exists()).toBe(false)
    // One press asks its question; the other one's probability does not come along.
    const ask = new URL(other.get('[data-test=ask-own]').attributes('href') ?? '', 'http://x').searchParams
    expect([ask.get('region'), ask.get('condition'), ask.get('pretest')]).toEqual([
      'hand_wrist',
      'Numbness',
      null,
    ])
    const none = await panel('Weakness', {
      evidence: 'not_studied',
      sample: false,
      figures: '',
      uninterpretable: { tests: 0, of: 0, results: 0 },
      standing: 'current',
      pooled: null,
    })
    await eventually(() => expect(none.text()).toContain('Without a study there is no post-test probability'))
    const waiting = await panel('Weakness', null)
    expect(waiting.find('[data-test=answer]').exists()).toBe(false)
  })
})
