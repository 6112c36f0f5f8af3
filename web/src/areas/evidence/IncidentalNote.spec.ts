import { beforeEach, describe, expect, it } from 'vitest'

import type { PooledPrevalence } from '@/shared/api/types'
import { enter, mounted, plain, serve } from '@/shared/mount.setup'
import IncidentalNote from './IncidentalNote.vue'

const pooled = (more: Partial<PooledPrevalence>): PooledPrevalence => ({
  sources: 1,
  apart: 0,
  shares: [],
  sample: false,
  people_with: 0,
  people_without: 120,
  with_symptoms: null,
  without_symptoms: { estimate: 0.15, lower: 0.06, upper: 0.33 },
  ratio: null,
  by_chance: null,
  incidental: 'possible',
  converged: true,
  ...more,
})

async function note(more: Partial<PooledPrevalence>) {
  enter(['read'])
  serve({ 'GET /regions': [], 'GET /conditions': [] })
  const { wrapper } = await mounted(IncidentalNote, { prevalence: pooled(more), condition: { id: 'c' } })
  return wrapper
}

describe('whether a true positive may be incidental', () => {
  beforeEach(() => (document.body.innerHTML = ''))

  it('is said with the share of people without symptoms, and leads to its sources', async () => {
    const wrapper = await note({ sample: true })
    expect(plain(wrapper.text())).toContain(
      '15 % (6–33 %) of people without symptoms have this condition: a true positive may be an incidental finding.',
    )
    expect(wrapper.find('b').exists(), 'a warning stands out').toBe(true)
    expect(wrapper.text()).toContain('sample data')
    expect(wrapper.get('a').attributes('href')).toMatch(/prevalence\/c/)
  })

  it('is calm where it is unlikely, and says when nobody has counted', async () => {
    const unlikely = await note({
      incidental: 'uncommon',
      without_symptoms: { estimate: 0.01, lower: 0, upper: 0.05 },
    })
    expect(unlikely.text()).toContain('an incidental finding is unlikely')
    expect(unlikely.find('b').exists()).toBe(false)
    const unknown = await note({ incidental: 'not_known', without_symptoms: null })
    expect(unknown.text()).toContain('No data on people without symptoms')
  })
})
