import { flushPromises } from '@vue/test-utils'
import { beforeEach, describe, expect, it } from 'vitest'
import { defineComponent, h, ref } from 'vue'

import { editor, mounted } from '@/shared/mount.setup'
import EntryList from './EntryList.vue'
import type { Entry, Field } from './fieldKinds'

type ListField = Extract<Field, { kind: 'list' }>
const steps: ListField = {
  kind: 'list',
  key: 'steps',
  label: 'Steps',
  add: 'Add a step',
  numbered: true,
  fields: [
    { kind: 'line', key: 'text', label: 'Text' },
    { kind: 'number', key: 'degrees', label: 'at', more: true },
    { kind: 'flag', key: 'optional', label: 'Startling', more: true },
  ],
}
const three = () => ['One', 'Two', 'Three'].map((text) => ({ text, degrees: null, optional: false }))

/** The list with its value held by a parent, as the form holds it. */
async function list(entries: Entry[], field: ListField = steps) {
  const value = ref(entries)
  const context = editor()
  const host = defineComponent({
    render: () =>
      h(EntryList, {
        modelValue: value.value,
        'onUpdate:modelValue': (changed: Entry[]) => (value.value = changed),
        field,
        path: field.key,
      }),
  })
  const { wrapper } = await mounted(host, {}, context.provide)
  const click = async (label: string) => {
    await wrapper.get(`[aria-label="${label}"]`).trigger('click')
    await flushPromises()
  }
  return { value, wrapper, click, ...context }
}
const texts = (entries: Entry[]) => entries.map((entry) => entry.text)

describe('a list of entries', () => {
  beforeEach(() => (document.body.innerHTML = ''))

  it('is put in order by keyboard, and stops at its ends', async () => {
    const { value, click, wrapper } = await list(three())
    await click('Move line 3 up')
    expect(texts(value.value)).toEqual(['One', 'Three', 'Two'])
    await click('Move line 1 down')
    expect(texts(value.value)).toEqual(['Three', 'One', 'Two'])
    expect(wrapper.get('[aria-label="Move line 1 up"]').attributes('disabled')).toBeDefined()
    expect(wrapper.get('[aria-label="Move line 3 down"]').attributes('disabled')).toBeDefined()
  })

  it('adds a blank entry with every field, and puts the keyboard into it', async () => {
    const { value, wrapper } = await list([])
    await wrapper.get('[data-test=add-steps]').trigger('click')
    await flushPromises()
    expect(value.value).toEqual([{ text: '', degrees: null, optional: false }])
    expect(document.activeElement?.closest('[data-path="steps[0]"]')).not.toBeNull()
  })

  it('removes the entry that was meant', async () => {
    const { value, click } = await list(three())
    await click('Remove line 2')
    expect(texts(value.value)).toEqual(['One', 'Three'])
  })

  it('shows rare fields when asked, when something is written there, and when it is wrong', async () => {
    const { value, click, wrapper, errors } = await list([
      ...three().slice(0, 1),
      { text: 'B', degrees: 30, optional: false },
    ])
    const shown = (path: string) => wrapper.find(`[data-path="${path}"]`).exists()
    expect([shown('steps[0].degrees'), shown('steps[1].degrees'), shown('steps[1].optional')]).toEqual([
      false,
      true,
      false,
    ])
    await click('More fields of line 1')
    expect([shown('steps[0].degrees'), shown('steps[0].optional')]).toEqual([true, true])
    errors.value = [
      { field: 'steps[1].optional', code: 'invalid', value: '', message: 'No.', remedy: 'Mend.' },
    ]
    await flushPromises()
    expect(shown('steps[1].optional')).toBe(true)
    await wrapper.get('[data-path="steps[0].degrees"] input').setValue('45')
    expect(value.value[0]?.degrees).toBe(45)
    await wrapper.get('[data-path="steps[0].degrees"] input').setValue('')
    expect(value.value[0]?.degrees).toBeNull()
  })

  it('says beside an entry what the checks found there, and nowhere else', async () => {
    const { wrapper, findings } = await list(three())
    findings.value = [
      { code: 'angle_outside_range', field: 'steps[1]', message: 'Outside.', remedy: 'Correct it.' },
    ]
    await flushPromises()
    expect(wrapper.get('[data-path="steps[1]"]').text()).toContain('Outside. Correct it.')
    expect(wrapper.get('[data-path="steps[0]"]').text()).not.toContain('Outside.')
  })

  it('puts long entries into tabs, and copies one without its name', async () => {
    const field: ListField = {
      ...steps,
      key: 'variants',
      tabs: true,
      fields: [{ kind: 'line', key: 'name', label: 'Name' }, steps],
    }
    const { value, wrapper } = await list([{ name: 'As taught', steps: three() }], field)
    expect(wrapper.findAll('[role=tab]').map((tab) => tab.text())).toEqual(['As taught'])
    const copy = wrapper.findAll('button').find((button) => button.text() === 'Copy this one')
    await copy?.trigger('click')
    await flushPromises()
    expect(value.value.map((entry) => entry.name)).toEqual(['As taught', ''])
    expect(value.value[1]?.steps).toEqual(value.value[0]?.steps)
    expect(value.value[1]?.steps).not.toBe(value.value[0]?.steps)
  })

  it('folds away what a simple test leaves empty, and opens what is written or at fault', async () => {
    const inner: ListField = { ...steps, key: 'repeats', label: 'Repeats', folds: true }
    const { wrapper, errors } = await list([{ repeats: [] }], { ...steps, fields: [inner] })
    const folded = () => wrapper.get('details')
    expect(folded().attributes('open')).toBeUndefined()
    expect(wrapper.findAll('[data-test=add-repeats]')).toHaveLength(0)
    errors.value = [
      {
        field: 'steps[0].repeats[0].text',
        code: 'missing',
        value: '',
        message: 'Empty.',
        remedy: 'Fill it in.',
      },
    ]
    await flushPromises()
    expect(folded().attributes('open')).toBeDefined()
    const written = await list([{ repeats: three() }], { ...steps, fields: [inner] })
    expect(written.wrapper.get('summary').text()).toContain('3 entries')
    expect(written.wrapper.get('details').attributes('open')).toBeDefined()
  })
})
