import { flushPromises } from '@vue/test-utils'
import { beforeEach, describe, expect, it } from 'vitest'

import { enter, eventually, mounted, problem, serve } from '@/shared/mount.setup'
import { session } from '@/shared/session/session'
import SecondStepForm from './SecondStepForm.vue'
import SignInForm from './SignInForm.vue'

const view = {
  account: null,
  demo: false,
  elsewhere: [],
  second_step_missing: false,
  recovery_codes: null as number | null,
}

describe('a second step', () => {
  beforeEach(() => {
    document.body.innerHTML = ''
    Object.assign(session, { account: null, demo: false, known: true, elsewhere: [], recoveryCodes: null })
  })

  it('is asked for only once the password was right', async () => {
    const answers = [
      problem(401, 'sign_in_failed'),
      problem(401, 'code_needed'),
      problem(401, 'code_wrong'),
      { ...view, recovery_codes: 8 },
    ]
    const asked = serve({ 'POST /session': () => answers.shift() })
    const { wrapper } = await mounted(SignInForm)
    const code = () => wrapper.find('[data-test=code] input')
    const submit = async () => {
      await wrapper.get('form').trigger('submit')
      await flushPromises()
      await flushPromises()
    }
    await wrapper.get('[data-test=login] input').setValue('p')
    await wrapper.get('[data-test=password] input').setValue('four words in a row')
    await submit()
    expect(code().exists(), 'a wrong password tells nothing of it').toBe(false)
    expect(wrapper.get('[data-test=sign-in-failure]').text()).toContain('sign_in_failed')
    await submit()
    expect(code().exists()).toBe(true)
    expect(wrapper.find('[data-test=sign-in-failure]').exists(), 'the field says what it asks for').toBe(
      false,
    )
    await code().setValue('123 456')
    await submit()
    expect(wrapper.get('[data-test=sign-in-failure]').text()).toContain('code_wrong')
    expect((code().element as HTMLInputElement).value, 'the wrong one is not sent again').toBe('')
    await code().setValue('654321')
    await submit()
    expect(asked.map((one) => (one.body as { code: string }).code)).toEqual(['', '', '123 456', '654321'])
    expect(session.recoveryCodes).toBe(8)
  })

  it('is set up with a device, and ends when the recovery codes are kept', async () => {
    enter()
    const codes = ['aaaa-bbbb-cccc', 'dddd-eeee-ffff']
    let tries = 0
    const asked = serve({
      'POST /session/second-step': {
        secret: 'ABCD',
        link: 'otpauth://totp/x',
        picture: 'data:image/png;base64,x',
      },
      'PUT /session/second-step': () => (tries++ ? { codes } : problem(401, 'code_wrong')),
    })
    const { wrapper } = await mounted(SecondStepForm)
    const form = wrapper.findComponent(SecondStepForm)
    const submit = async () => {
      await wrapper.get('form').trigger('submit')
      await flushPromises()
      await flushPromises()
    }
    await wrapper.get('[data-test=second-step-password] input').setValue('four words in a row')
    await submit()
    expect(asked[0]?.body).toEqual({ password: 'four words in a row' })
    expect(wrapper.get('[data-test=second-step-secret]').text()).toBe('ABCD')
    expect(wrapper.get('img').attributes('alt')).toContain('the key is written below')
    await wrapper.get('[data-test=first-code] input').setValue('000000')
    await submit()
    await eventually(() => expect(wrapper.text()).toContain('code_wrong'))
    await wrapper.get('[data-test=first-code] input').setValue('111111')
    await submit()
    await eventually(() => expect(wrapper.findAll('[data-test=recovery-codes] li')).toHaveLength(2))
    const done = () => wrapper.get('[data-test=second-step-done]')
    expect(done().attributes('disabled'), 'they are shown this once').toBeDefined()
    await wrapper.get('[data-test=codes-kept] input').setValue(true)
    expect(done().attributes('disabled')).toBeUndefined()
    await submit()
    expect(form.emitted('done')).toHaveLength(1)
  })
})
