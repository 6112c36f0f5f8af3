import { flushPromises } from '@vue/test-utils'
import { beforeEach, describe, expect, it } from 'vitest'

import { enter, mounted, problem, serve, eventually } from '@/shared/mount.setup'
import StructuresPage from './StructuresPage.vue'

const structure = (id: string, name: string, more: object = {}) => ({
  id,
  version: 1,
  region: 'hand_wrist',
  name,
  other_names: [],
  tissue: 'muscle',
  actions: [],
  retired: false,
  tests: 0,
  ...more,
})

async function page(answer: unknown, rights?: Parameters<typeof enter>[0]) {
  enter(rights)
  serve({
    'GET /regions': [{ region: 'hand_wrist', tests: 1 }],
    'GET /conditions': [],
    'GET /structures': () => answer,
    'GET /structures/a/tests': [
      {
        id: 't',
        name: 'Thumb lift',
        region: 'hand_wrist',
        variant: 'As taught',
        phase: 'Hold',
        role: 'contracted',
      },
    ],
  })
  const { wrapper } = await mounted(StructuresPage)
  await flushPromises()
  const names = () => wrapper.findAll('[data-test=structure-row] th').map((cell) => cell.text())
  return { wrapper, names }
}
const two = [
  structure('a', 'Short thumb abductor', {
    other_names: ['Lifter'],
    actions: [{ joint: 'thumb_base', motion: 'abduction' }],
    tests: 1,
  }),
  structure('b', 'Scaphoid', { tissue: 'bone', retired: true }),
]

describe('the vocabulary of a region', () => {
  beforeEach(() => (document.body.innerHTML = ''))

  it('says what each muscle does, what is archived, and which tests load it', async () => {
    const { wrapper } = await page(two)
    const [muscle, bone] = wrapper.findAll('[data-test=structure-row]').map((row) => row.text())
    expect(muscle).toContain('abduction of the thumb base')
    expect(bone).toContain('archived')
    expect(bone).toContain('no test')
    const tests = wrapper.findAll('button').find((button) => button.text() === '1 test')
    await tests?.trigger('click')
    await eventually(() => expect(wrapper.get('[data-test=loading-tests]').text()).toContain('Thumb lift'))
    expect(wrapper.get('[data-test=loading-tests]').text()).toMatch(
      /Thumb lift\s+contracts · As taught\s*, Hold/,
    )
    await tests?.trigger('click')
    expect(wrapper.find('[data-test=loading-tests]').exists()).toBe(false)
  })

  it('is searched by every name', async () => {
    const { wrapper, names } = await page(two)
    await wrapper.get('.search input').setValue('lifter')
    expect(names()).toHaveLength(1)
    expect(names()[0]).toContain('Short thumb abductor')
    await wrapper.get('.search input').setValue('nothing')
    expect(wrapper.text()).toContain('No structure here')
  })

  it('says that it could not be loaded, and offers editing only to those who may', async () => {
    const broken = await page(problem(500, 'internal'))
    expect(broken.wrapper.text()).toContain('The structures could not be loaded')
    document.body.innerHTML = ''
    const reader = await page(two, ['read'])
    expect(reader.wrapper.find('[data-test=add-structure]').exists()).toBe(false)
    expect(reader.wrapper.findAll('[aria-label^="Edit:"]')).toHaveLength(0)
  })
})
