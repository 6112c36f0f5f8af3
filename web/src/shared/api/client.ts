import createClient, { type Middleware } from 'openapi-fetch'

import { outage } from '../outage'
import { text } from '../text'
import type { paths } from './schema.gen'
import type { FieldError, Problem } from './types'

/** An answer of the API that is no success, as its problem document says it. */
export class ApiProblem extends Error {
  constructor(readonly problem: Problem) {
    super(`${problem.title}. ${problem.detail}`)
  }

  get code(): string {
    return this.problem.code
  }

  get fields(): FieldError[] {
    return this.problem.errors
  }
}

function unreachable(): Problem {
  return {
    type: 'about:blank',
    title: text.outage.serverTitle,
    status: 0,
    detail: text.outage.nothingLost,
    code: 'server_unreachable',
    request_id: '',
    errors: [],
  }
}

const watchOutage: Middleware = {
  onError: ({ request }) => {
    // Who gave up waiting has not lost the server.
    if (request.signal.aborted) return
    outage.begin('server')
    return new ApiProblem(unreachable())
  },
  onResponse: async ({ response }) => {
    if (response.ok) return
    const problem: Problem = response.headers.get('Content-Type')?.includes('json')
      ? await response.json()
      : { ...unreachable(), status: response.status }
    if (problem.code === 'database_unavailable') outage.begin('database')
    if (problem.code === 'not_signed_in') told.signedOut?.()
    if (problem.code === 'second_step_missing') told.secondStepMissing?.()
    throw new ApiProblem(problem)
  },
}

/** Told when an answer says that nobody is signed in, or that two-step sign-in has to be set up first; the session module listens. */
export const told = {
  signedOut: null as (() => void) | null,
  secondStepMissing: null as (() => void) | null,
}

// Looked up at every request, so that tests can stand in for the server.
export const api = createClient<paths>({ baseUrl: '/', fetch: (request) => globalThis.fetch(request) })
api.use(watchOutage)

/** The data of a successful answer; failures were thrown already. */
export function data<T>(answer: { data?: T }): T {
  return answer.data as T
}
