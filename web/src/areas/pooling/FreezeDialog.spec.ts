import { flushPromises } from '@vue/test-utils'
import { beforeEach, describe, expect, it } from 'vitest'

import type { FieldError, PoolInput } from '@/shared/api/types'
import { type Asked, enter, eventually, mounted, problem, serve } from '@/shared/mount.setup'
import FreezeDialog from './FreezeDialog.vue'

const pool: PoolInput = { tests: ['a'], condition: null, by: 'setting', model: 'auto' }
const fault = (field: string, message: string): FieldError => ({
  field,
  code: 'missing',
  value: '',
  message,
  remedy: 'Do.',
})

async function dialog(answer: (one: Asked) => unknown) {
  enter(['read', 'write_studies'])
  const asked = serve({ 'GET /regions': [], 'GET /conditions': [], 'POST /snapshots': answer })
  const { wrapper, router } = await mounted(FreezeDialog, { open: true, pool, kept: 3, reference: null })
  const find = <T extends HTMLElement>(css: string) => document.querySelector<T>(css)!
  const save = async () => {
    find('[data-test=freeze-save]')
      .closest('form')
      ?.dispatchEvent(new Event('submit', { cancelable: true }))
    await flushPromises()
  }
  const name = (text: string) => {
    const field = find<HTMLInputElement>('[data-test=freeze-name] input')
    field.value = text
    field.dispatchEvent(new Event('input', { bubbles: true }))
  }
  return { wrapper, router, find, save, name, asked }
}

describe('freezing a pool', () => {
  beforeEach(() => (document.body.innerHTML = ''))

  it('sends what is pooled, not how it is looked at, and goes to what was frozen', async () => {
    const { wrapper, router, save, name, asked, find } = await dialog(() => ({ id: 's1' }))
    expect(find('[data-test=freeze-dialog]').textContent).toContain('3 results, the choices and the answer')
    name('Wrist module')
    await save()
    expect(asked.find((one) => one.method === 'POST')?.body).toEqual({
      title: 'Wrist module',
      note: '',
      pool: { ...pool, by: null },
      reference: null,
    })
    await eventually(() => expect(router.currentRoute.value.params.snapshot).toBe('s1'))
    expect(wrapper.emitted('update:open')?.at(-1)).toEqual([false])
  })

  it('says beside the field what is missing, and above the form what cannot be pooled', async () => {
    const faults = [fault('title', 'This field is empty.'), fault('pool', 'No result is in the pool.')]
    const { wrapper, save, find } = await dialog(() => problem(422, 'fields_invalid', faults))
    await save()
    expect(find('[data-test=freeze-name]').textContent).toContain('This field is empty. Do.')
    expect(find('.failure').textContent).toContain('No result is in the pool. Do.')
    expect(wrapper.emitted('update:open')).toBeUndefined()
  })
})
