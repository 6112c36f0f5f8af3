import { flushPromises } from '@vue/test-utils'
import { VSelect } from 'vuetify/components'
import { beforeEach, describe, expect, it } from 'vitest'

import { type Asked, enter, eventually, mounted, problem, serve } from '@/shared/mount.setup'
import { undoBar } from '@/shared/undo'
import SettingsPanel from './SettingsPanel.vue'

async function panel(put: (asked: Asked) => unknown) {
  enter(['read', 'read_drafts', 'manage_accounts'])
  const asked = serve({
    'GET /settings': { version: 4, learners_see: 'all_results', interval: 'auto' },
    'PUT /settings': put,
  })
  const { wrapper } = await mounted(SettingsPanel)
  await eventually(() => expect(wrapper.find('[data-test=learners-see]').exists()).toBe(true))
  const box = (name: string) => wrapper.get<HTMLInputElement>(`[data-test=learners-see-${name}] input`)
  const choose = async (name: string) => {
    await box(name).setValue(true)
    await flushPromises()
    await flushPromises()
  }
  const sent = () => asked.filter((one) => one.method === 'PUT')
  return { wrapper, box, choose, sent }
}

describe('what holds for everybody', () => {
  beforeEach(() => (document.body.innerHTML = ''))

  it('shows what holds, changes it at its version, and takes it back', async () => {
    let version = 4
    const { box, choose, sent } = await panel(({ body }) => ({ ...(body as object), version: ++version }))
    expect(box('all_results').element.checked).toBe(true)
    await choose('signed_off')
    expect(sent()[0]?.body, 'what else holds is sent as it is').toEqual({
      learners_see: 'signed_off',
      interval: 'auto',
    })
    expect(sent()[0]?.headers.get('If-Match')).toBe('"4"')
    await eventually(() => expect(undoBar.message).toContain('Setting changed'))
    expect(box('signed_off').element.checked).toBe(true)
    await undoBar.action?.()
    await eventually(() => expect(sent()).toHaveLength(2))
    expect(sent()[1]?.body).toEqual({ learners_see: 'all_results', interval: 'auto' })
    expect(sent()[1]?.headers.get('If-Match'), 'at the version that came of the change').toBe('"5"')
  })

  it('sets the intervals of every pool that asks for none of its own', async () => {
    const { wrapper, sent } = await panel(({ body }) => ({ ...(body as object), version: 5 }))
    const list = wrapper.getComponent<typeof VSelect>('[data-test=setting-interval]')
    expect(list.text()).toContain('Posterior up to 20 studies')
    list.vm.$emit('update:modelValue', 'wald')
    await eventually(() => expect(sent()[0]?.body).toEqual({ learners_see: 'all_results', interval: 'wald' }))
    await eventually(() => expect(list.props('modelValue')).toBe('wald'))
  })

  it('says when somebody else was faster, and asks what holds now', async () => {
    const { choose, sent, box } = await panel(() => problem(412, 'conflict'))
    await choose('signed_off')
    await eventually(() => expect(undoBar.message).toContain('conflict'))
    expect(sent()).toHaveLength(1)
    await eventually(() => expect(box('all_results').element.checked).toBe(true))
  })
})
