import { reactive } from 'vue'

import { api, data, told } from '../api/client'
import { queryClient } from '../api/queries'
import type { AccountView, Right, Role, SessionElsewhere, SessionView } from '../api/types'
import { text } from '../text'
import { undoBar } from '../undo'

/**
 * Who is signed in. When a session ends while somebody works, `expired` asks for the password above the page as it is:
 * what was typed stays.
 */
export const session = reactive({
  account: null as AccountView | null,
  demo: false,
  known: false,
  expired: false,
  /** The same account's other sessions. */
  elsewhere: [] as SessionElsewhere[],
  /** The role requires two-step sign-in, which is to be set up before anything else. */
  secondStepMissing: false,
  /** How many recovery codes are left; nothing without two-step sign-in. */
  recoveryCodes: null as number | null,
})

told.signedOut = () => (session.expired = session.account !== null)
told.secondStepMissing = () => (session.secondStepMissing = session.account !== null)

export const may = (right: Right): boolean => session.account?.rights.includes(right) ?? false

function enter(view: SessionView) {
  // Another person may see something else: nothing of the last one is kept.
  if (session.known && session.account?.id !== view.account?.id) queryClient.clear()
  else if (session.known) void queryClient.invalidateQueries()
  session.account = view.account ?? null
  session.demo = view.demo
  session.elsewhere = view.elsewhere
  session.secondStepMissing = view.second_step_missing
  session.recoveryCodes = view.recovery_codes ?? null
  session.known = true
  session.expired = false
}

export async function loadSession(): Promise<void> {
  enter(data(await api.GET('/api/v1/session')))
}

/** `code` is asked for after the password, of those who sign in with a second step. */
export async function signIn(login: string, password: string, code: string): Promise<void> {
  enter(data(await api.POST('/api/v1/session', { body: { login, password, code } })))
  const left = session.recoveryCodes
  if (left !== null && /[a-z]/i.test(code)) undoBar.offer(text.secondStep.codeUsed(left))
  else if (session.elsewhere.length) undoBar.offer(text.people.elsewhereToo(session.elsewhere.length))
}

export async function enterDemo(role: Role): Promise<void> {
  enter(data(await api.POST('/api/v1/session/demo', { body: { role } })))
}

export async function endElsewhere(): Promise<void> {
  await api.DELETE('/api/v1/session/others')
  session.elsewhere = []
}

export async function signOut(): Promise<void> {
  await api.DELETE('/api/v1/session')
  enter({ account: null, demo: session.demo, elsewhere: [], second_step_missing: false })
}

export async function resetPassword(secret: string, password: string, code: string): Promise<void> {
  enter(data(await api.POST('/api/v1/reset', { body: { secret, password, code } })))
}

export async function join(secret: string, login: string, name: string, password: string): Promise<void> {
  enter(data(await api.POST('/api/v1/join', { body: { secret, login, name, password } })))
}
