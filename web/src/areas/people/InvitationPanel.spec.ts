import { flushPromises } from '@vue/test-utils'
import { beforeEach, describe, expect, it } from 'vitest'

import { queryClient } from '@/shared/api/queries'
import { enter, mounted, problem, serve, eventually } from '@/shared/mount.setup'
import InvitationPanel from './InvitationPanel.vue'

const invitation = (id: string, more: object = {}) => ({
  id,
  role: 'author',
  note: 'Group 4',
  expires_at: '2026-12-02T10:00:00Z',
  path: null,
  ...more,
})

async function panel(answers: Record<string, unknown> = {}) {
  enter(['read', 'manage_accounts'])
  let mail: object[] = []
  const asked = serve({
    'GET /invitations': [invitation('a')],
    'GET /mail': () => mail,
    'POST /invitations': invitation('b', { path: '/join#secret' }),
    'DELETE /invitations/a': () => new Response(null, { status: 204 }),
    ...answers,
  })
  const { wrapper } = await mounted(InvitationPanel)
  await flushPromises()
  const invite = async (note: string, to: string) => {
    await wrapper.get('[data-test=invite-note] input').setValue(note)
    await wrapper.get('[data-test=invite-mail] input').setValue(to)
    await wrapper.get('form').trigger('submit')
    await flushPromises()
    await flushPromises()
  }
  return { wrapper, asked, invite, post: (mails: object[]) => (mail = mails) }
}

describe('inviting somebody', () => {
  beforeEach(() => {
    document.body.innerHTML = ''
    queryClient.clear()
  })

  it('shows the link once, and empties the form for the next', async () => {
    const { wrapper, asked, invite } = await panel()
    expect(wrapper.find('[data-test=invitation-link]').exists()).toBe(false)
    await invite('Group 5', 'k@example.org')
    const sent = asked.find((one) => one.method === 'POST')
    expect(sent?.body).toEqual({ role: 'author', note: 'Group 5', mail_to: 'k@example.org' })
    expect(wrapper.get('[data-test=invitation-link]').text()).toBe(`${window.location.origin}/join#secret`)
    expect(wrapper.get<HTMLInputElement>('[data-test=invite-note] input').element.value).toBe('')
    expect(wrapper.get<HTMLInputElement>('[data-test=invite-mail] input').element.value).toBe('')
  })

  it('says what is wrong with an address beside it, and keeps what was typed', async () => {
    const fault = {
      field: 'mail_to',
      code: 'invalid' as const,
      value: 'k',
      message: 'No address.',
      remedy: 'Mend it.',
    }
    const { wrapper, invite } = await panel({
      'POST /invitations': () => problem(422, 'fields_invalid', [fault]),
    })
    await invite('Group 5', 'k')
    expect(wrapper.get('[data-test=invite-mail]').text()).toContain('No address. Mend it.')
    expect(wrapper.get<HTMLInputElement>('[data-test=invite-note] input').element.value).toBe('Group 5')
    expect(wrapper.find('[data-test=invitation-link]').exists()).toBe(false)
  })

  it('takes an open invitation back', async () => {
    const { wrapper, asked } = await panel()
    const back = wrapper.findAll('button').find((button) => button.text() === 'Cancel invitation')
    await back?.trigger('click')
    await eventually(() => expect(asked.some((one) => one.method === 'DELETE')).toBe(true))
  })

  it('shows what would have been mailed, and that nothing is', async () => {
    const { wrapper: none } = await panel()
    expect(none.text()).not.toContain('Simulated mail')
    document.body.innerHTML = ''
    const mail = {
      to: 'k@example.org',
      subject: 'You are invited',
      text: 'Open this link',
      at: '2026-11-25T10:00:00Z',
    }
    const { wrapper } = await panel({ 'GET /mail': [mail] })
    expect(wrapper.text()).toContain('nothing is sent')
    expect(wrapper.get('[data-test=mail]').text()).toContain('To k@example.org')
    expect(wrapper.get('[data-test=mail]').text()).toContain('Open this link')
  })
})
