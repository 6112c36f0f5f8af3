import { flushPromises } from '@vue/test-utils'
import { beforeEach, describe, expect, it } from 'vitest'

import type { TestView } from '@/shared/api/types'
import { enter, mounted, problem, serve } from '@/shared/mount.setup'
import { undoBar } from '@/shared/undo'
import ReviewBar from './ReviewBar.vue'

const test = (more: object) =>
  ({
    id: 'a',
    version: 4,
    status: 'draft',
    next_steps: ['submit', 'retire'],
    published_version: null,
    ...more,
  }) as unknown as TestView

async function bar(more: object = {}, answer: unknown = {}, rights?: Parameters<typeof enter>[0]) {
  enter(rights)
  const asked = serve({ 'GET /regions': [], 'GET /conditions': [], 'POST /tests/a/steps': () => answer })
  const { wrapper } = await mounted(ReviewBar, {
    record: test(more),
    kind: 'tests',
    label: 'Status',
    history: '/',
  })
  const dialog = () => document.querySelector('.v-dialog form')
  const take = async (step: string, comment: string) => {
    await wrapper.get(`[data-test=step-${step}]`).trigger('click')
    await flushPromises()
    const field = dialog()?.querySelector<HTMLTextAreaElement>('textarea')
    if (!field) throw new Error('no comment')
    field.value = comment
    field.dispatchEvent(new Event('input'))
    await flushPromises()
    dialog()?.dispatchEvent(new Event('submit'))
    await flushPromises()
    await flushPromises()
  }
  return { wrapper, take, dialog, sent: () => asked.find((one) => one.method === 'POST') }
}

describe('where a sheet stands', () => {
  beforeEach(() => (document.body.innerHTML = ''))

  it('offers the steps that lead on, and sends one with its reason and version', async () => {
    const { wrapper, take, sent } = await bar()
    expect(wrapper.findAll('[data-test^=step-]').map((it) => it.text())).toEqual([
      'Submit for review',
      'Archive',
    ])
    await take('submit', 'please look')
    expect(sent()?.headers.get('If-Match')).toBe('"4"')
    expect(sent()?.body).toEqual({ step: 'submit', comment: 'please look' })
    expect(undoBar.message).toBe('Submitted for review.')
  })

  it('says why a step is refused, and keeps the words', async () => {
    const fault = {
      field: 'step',
      code: 'invalid' as const,
      value: '',
      message: 'You wrote this yourself.',
      remedy: 'Ask another.',
    }
    const { take, dialog } = await bar({ next_steps: ['sign_off'] }, problem(422, 'fields_invalid', [fault]))
    await take('sign_off', 'fine by me')
    expect(dialog()?.querySelector('.failure')?.textContent).toBe('You wrote this yourself. Ask another.')
    expect(dialog()?.querySelector('textarea')?.value).toBe('fine by me')
  })

  it('tells when learners still read an earlier text, and nothing to learners', async () => {
    const waiting = await bar({ published_version: 2 })
    expect(waiting.wrapper.text()).toContain('Learners still see the version that was signed off before.')
    const published = await bar({ published_version: 4, status: 'published' })
    expect(published.wrapper.text()).not.toContain('Learners still see')
    const learner = await bar({ published_version: 2 }, {}, ['read'])
    expect(learner.wrapper.find('[data-test=review]').exists()).toBe(false)
  })
})
