import { beforeEach, describe, expect, it } from 'vitest'

import type { Right } from '@/shared/api/types'
import { enter, eventually, mounted, serve } from '@/shared/mount.setup'
import { places } from './places'
import PlacesMenu from './PlacesMenu.vue'
import WideBlock from './WideBlock.vue'

const names = () => places().map(({ key, entries }) => [key, ...entries.map(({ name }) => name)])

describe('what stands beside the path', () => {
  beforeEach(() => (document.body.innerHTML = ''))

  it('shows to whom it is open, and no empty menu', () => {
    const all: Right[] = ['read', 'read_drafts', 'write_sheets', 'write_studies', 'manage_accounts']
    const seen: [Right[], string[][]][] = [
      [['read'], [['library', 'references', 'structures', 'conflicts', 'guide']]],
      [
        ['read', 'read_drafts', 'write_studies'],
        [
          ['library', 'references', 'extractions', 'structures', 'conflicts', 'guide'],
          ['administration', 'exchange', 'table-import'],
        ],
      ],
      [
        all,
        [
          ['library', 'references', 'extractions', 'structures', 'conflicts', 'guide'],
          ['administration', 'exchange', 'table-import', 'people'],
        ],
      ],
    ]
    for (const [rights, expected] of seen) {
      enter(rights)
      expect(names(), rights.join()).toEqual(expected)
    }
  })

  it('opens from the end of the path, and keeps the question', async () => {
    enter(['read', 'read_drafts'])
    serve({ 'GET /regions': [], 'GET /conditions': [] })
    const { wrapper } = await mounted(PlacesMenu, {}, {}, { pretest: '20' })
    await wrapper.get('[data-test=places-administration]').trigger('click')
    await eventually(() => expect(document.querySelector('[data-test=place-exchange]')).not.toBeNull())
    expect(document.querySelector('[data-test=place-people]'), 'it would be refused').toBeNull()
  })
})

describe('a wide block', () => {
  it('is in nobody’s way as long as it does not scroll', async () => {
    const { wrapper } = await mounted(WideBlock, { label: 'Figures' })
    expect(wrapper.attributes('tabindex')).toBeUndefined()
    expect(wrapper.attributes('role')).toBeUndefined()
  })
})
