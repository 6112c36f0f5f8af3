import { flushPromises } from '@vue/test-utils'
import { beforeEach, describe, expect, it } from 'vitest'
import { defineComponent, h, ref } from 'vue'

import { mounted, serve } from '@/shared/mount.setup'
import ShareField from './ShareField.vue'

async function field(begin: number | null) {
  serve({ 'GET /regions': [], 'GET /conditions': [] })
  const share = ref<number | null>(begin)
  const parent = defineComponent({
    setup: () => () =>
      h(ShareField, {
        label: 'Pre-test probability',
        modelValue: share.value,
        'onUpdate:modelValue': (to: number | null | undefined) => (share.value = to ?? null),
      }),
  })
  const { wrapper } = await mounted(parent)
  const input = wrapper.get<HTMLInputElement>('input')
  return { share, input: input.element, type: (text: string) => input.setValue(text) }
}

describe('a probability typed in per cent', () => {
  beforeEach(() => (document.body.innerHTML = ''))

  it('holds shares, takes a comma, and keeps what is typed while it is typed', async () => {
    const { share, input, type } = await field(0.3)
    expect(input.value).toBe('30')
    await type('12,5')
    expect([share.value, input.value]).toEqual([0.125, '12,5'])
    await type('12.')
    expect([share.value, input.value]).toEqual([0.12, '12.'])
  })

  it('is nothing while nothing or no number stands there, and follows what is set elsewhere', async () => {
    const { share, input, type } = await field(null)
    expect(input.value).toBe('')
    await type('abc')
    expect([share.value, input.value]).toEqual([null, 'abc'])
    share.value = 0.07
    await flushPromises()
    expect(input.value).toBe('7')
    // What is no probability is told by who checks it, with the value as it was typed.
    await type('130')
    expect(share.value).toBe(1.3)
  })
})
