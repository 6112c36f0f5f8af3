import { flushPromises } from '@vue/test-utils'
import { beforeEach, describe, expect, it } from 'vitest'
import { VAutocomplete } from 'vuetify/components'

import { type Asked, enter, eventually, mounted, problem, serve } from '@/shared/mount.setup'
import { undoBar } from '@/shared/undo'
import AskExtraction from './AskExtraction.vue'
import ReferencePicker from './ReferencePicker.vue'
import { reference } from './references.setup'

async function dialog(
  answer: (asked: Asked) => unknown,
  references: unknown = { total: 1, references: [reference('1')] },
) {
  enter(['read', 'read_drafts', 'write_studies'])
  const asked = serve({
    'GET /regions': [{ region: 'neck', tests: 1 }],
    'GET /conditions': [],
    'GET /tests': [{ id: 'a', name: 'Thumb lift' }],
    'GET /references': () => references,
    'POST /extractions': answer,
    'DELETE /extractions/x': () => new Response(null, { status: 204 }),
  })
  const { wrapper } = await mounted(AskExtraction, { open: true })
  await flushPromises()
  const find = <T extends HTMLElement>(css: string) => document.querySelector<T>(css)!
  const submit = async () => {
    find('[data-test=put-on-list]').closest('form')!.dispatchEvent(new Event('submit'))
    await flushPromises()
  }
  const sent = () => asked.filter((one) => one.method === 'POST' && one.path === '/extractions')
  return { wrapper, asked, find, submit, sent }
}

describe('putting a result on the list', () => {
  beforeEach(() => (document.body.innerHTML = ''))

  it('opens no list over its buttons when the references come in late', async () => {
    let come: ((found: unknown) => void) | undefined
    const { wrapper } = await dialog(() => ({}), new Promise((resolve) => (come = resolve)))
    const field = wrapper.findComponent(ReferencePicker).getComponent<typeof VAutocomplete>('.v-autocomplete')
    await field.get('input').trigger('focus')
    come?.({ total: 1, references: [reference('1')] })
    await eventually(() => expect(field.props('items')).toHaveLength(1))
    await flushPromises()
    expect(field.props('menu')).toBe(false)
  })

  it('wants a test and a report, and can be undone', async () => {
    const { wrapper, asked, find, submit, sent } = await dialog(() => ({ id: 'x', mine: null }))
    await submit()
    expect(find('[data-test=ask-dialog]').textContent).toContain('Choose a test.')
    expect(find('[data-test=ask-dialog]').textContent).toContain('Choose a report.')
    expect(sent()).toHaveLength(0)
    wrapper.getComponent<typeof VAutocomplete>('[data-test=ask-test]').vm.$emit('update:modelValue', {
      id: 'a',
      name: 'Thumb lift',
    })
    wrapper.findComponent(ReferencePicker).vm.$emit('picked', reference('1'))
    await flushPromises()
    // The name, and not what the program calls it.
    expect(find('[data-test=asked-test]').textContent).toBe('Thumb lift')
    expect(find('[data-test=ask-report]').textContent).toContain('Held flexion 1')
    await submit()
    expect(sent()[0]?.body).toEqual({ report: { test_id: 'a', reference_id: '1', asked: '' } })
    expect(wrapper.emitted('update:open')?.at(-1)).toEqual([false])
    await undoBar.action?.()
    await eventually(() => expect(asked.some((one) => one.method === 'DELETE')).toBe(true))
  })

  it('stays open and says why it was refused', async () => {
    const fault = {
      field: 'reference_id',
      code: 'unknown' as const,
      value: '1',
      message: 'This reference is not on record.',
      remedy: 'Choose another one.',
    }
    const { wrapper, find, submit } = await dialog(() => problem(422, 'fields_invalid', [fault]))
    wrapper
      .getComponent<typeof VAutocomplete>('[data-test=ask-test]')
      .vm.$emit('update:modelValue', { id: 'a' })
    wrapper.findComponent(ReferencePicker).vm.$emit('picked', reference('1'))
    await flushPromises()
    await submit()
    expect(find('.failure').textContent).toBe('This reference is not on record. Choose another one.')
    expect(wrapper.emitted('update:open')).toBeUndefined()
  })
})
