import { reactive } from 'vue'

import { api, data, signedOut } from '../api/client'
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
})

signedOut.happened = () => (session.expired = session.account !== null)

export const may = (right: Right): boolean => session.account?.rights.includes(right) ?? false

function enter(view: SessionView) {
  // Another person may see something else: nothing of the last one is kept.
  if (session.known && session.account?.id !== view.account?.id) queryClient.clear()
  else if (session.known) void queryClient.invalidateQueries()
  session.account = view.account ?? null
  session.demo = view.demo
  session.elsewhere = view.elsewhere
  session.known = true
  session.expired = false
}

export async function loadSession(): Promise<void> {
  enter(data(await api.GET('/api/v1/session')))
}

export async function signIn(login: string, password: string): Promise<void> {
  enter(data(await api.POST('/api/v1/session', { body: { login, password } })))
  if (session.elsewhere.length) undoBar.offer(text.people.elsewhereToo(session.elsewhere.length))
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
  enter({ account: null, demo: session.demo, elsewhere: [] })
}

export async function resetPassword(secret: string, password: string): Promise<void> {
  enter(data(await api.POST('/api/v1/reset', { body: { secret, password } })))
}

export async function join(secret: string, login: string, name: string, password: string): Promise<void> {
  enter(data(await api.POST('/api/v1/join', { body: { secret, login, name, password } })))
}
