import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'

import { outage } from '../outage'
import { ApiProblem } from './client'

const calls: Request[] = []
function serve(body: unknown, status: number, type = 'application/problem+json') {
  vi.stubGlobal('fetch', (request: Request) => {
    calls.push(request)
    const text = typeof body === 'string' ? body : JSON.stringify(body)
    return Promise.resolve(new Response(text, { status, headers: { 'Content-Type': type } }))
  })
}
const problem = (code: string, errors: unknown[] = []) => ({
  type: `urn:pruvex:problem:${code}`,
  title: 'Title',
  status: 422,
  detail: 'Detail.',
  code,
  request_id: 'r',
  errors,
})

/** The client keeps the fetch of the moment it is made, so each test makes its own. */
async function freshClient() {
  vi.resetModules()
  return await import('./client')
}

beforeEach(() => {
  calls.length = 0
  outage.cause = null
})
afterEach(() => vi.unstubAllGlobals())

describe('the API client', () => {
  it('throws what the problem document says', async () => {
    serve(problem('fields_invalid', [{ field: 'name', message: 'Empty.' }]), 422)
    const { api, ApiProblem: Problem } = await freshClient()
    const failure = await api.GET('/api/v1/regions').catch((error: unknown) => error)
    expect(failure).toBeInstanceOf(Problem)
    const caught = failure as ApiProblem
    expect([caught.code, caught.message, caught.fields[0]?.field]).toEqual([
      'fields_invalid',
      'Title. Detail.',
      'name',
    ])
  })

  it('gives the data of a success', async () => {
    serve([{ region: 'hip', tests: 2 }], 200, 'application/json')
    const { api, data } = await freshClient()
    expect(data(await api.GET('/api/v1/regions'))).toEqual([{ region: 'hip', tests: 2 }])
  })

  it('makes a problem of an answer that is no problem document', async () => {
    serve('<html>Bad gateway</html>', 502, 'text/html')
    const { api } = await freshClient()
    const failure = (await api.GET('/api/v1/regions').catch((error: unknown) => error)) as ApiProblem
    expect([failure.code, failure.problem.status]).toEqual(['server_unreachable', 502])
  })
})
