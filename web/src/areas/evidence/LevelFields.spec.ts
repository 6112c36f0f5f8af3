import { flushPromises } from '@vue/test-utils'
import { beforeEach, describe, expect, it } from 'vitest'
import { defineComponent, h, ref } from 'vue'

import { eventually, mounted, problem, serve } from '@/shared/mount.setup'
import LevelFields from './LevelFields.vue'
import LevelRatios from './LevelRatios.vue'
import { newResult } from './resultFields'

const grading = { name: 'Effort', unit: '', levels: [{ name: 'easy' }, { name: 'hard' }] }

describe('counts per level', () => {
  beforeEach(() => (document.body.innerHTML = ''))

  it('take the levels of the sheet, are typed, taken out, and say what does not fit', async () => {
    serve({ 'GET /tests/a': { variants: [{ name: 'As taught', grading }] } })
    const words = ref(newResult())
    const of = (field: string) => (field === 'result.levels' ? ['No cut gives the four cells.'] : [])
    const host = defineComponent({
      render: () => h(LevelFields, { modelValue: words.value, testId: 'a', of }),
    })
    const { wrapper } = await mounted(host)
    await eventually(() => expect(wrapper.find('[data-test=take-levels]').exists()).toBe(true))
    await wrapper.get('[data-test=take-levels]').trigger('click')
    await wrapper.get('[data-test=level-with-1] input').setValue('12')
    expect(words.value.levels).toEqual([
      { name: 'easy', with: null, without: null },
      { name: 'hard', with: 12, without: null },
    ])
    expect(wrapper.get('p[role=alert]').text()).toBe('No cut gives the four cells.')
    await wrapper.get('[aria-label="Remove level 1"]').trigger('click')
    await flushPromises()
    expect(words.value.levels?.map((level) => level.name)).toEqual(['hard'])
    expect(newResult().levels).toEqual([])
  })

  it('answer a ratio and a probability for each level, and say what was left out', async () => {
    const ratio = { estimate: 4.9, lower: 2, upper: 12 }
    const asked = serve({
      'GET /tests/a/levels': {
        studies: 2,
        apart: 1,
        sample: true,
        levels: [
          {
            name: 'hard',
            with: 26,
            without: 4,
            ratio,
            converged: true,
            after: { estimate: 0.68, lower: 0.5, upper: 0.8 },
          },
          { name: 'never', with: 0, without: 0, ratio: null, converged: true, after: null },
        ],
      },
    })
    const { wrapper } = await mounted(LevelRatios, { testId: 'a', given: true })
    await eventually(() => expect(wrapper.find('tbody').exists()).toBe(true))
    expect(asked.find(({ path }) => path.startsWith('/tests'))?.path).toContain('pre_test=')
    expect(wrapper.text()).toMatch(/sample data.*2 studies/)
    expect(wrapper.get('tbody tr').text()).toMatch(/hard\s*26 \/ 4\s*4\.9 \(2\.0–12\)\s*68/)
    expect(wrapper.findAll('tbody tr')[1]?.text()).toMatch(/not estimable\s*not estimable/)
    expect(wrapper.text()).toContain('One study gives other levels and is left out.')
  })

  it('say when they could not be loaded', async () => {
    serve({ 'GET /tests/a/levels': problem(503, 'database_unavailable') })
    const { wrapper } = await mounted(LevelRatios, { testId: 'a', given: true })
    await eventually(() => expect(wrapper.text()).toContain('of the levels could not be loaded'))
  })
})
