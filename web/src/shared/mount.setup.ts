import { QueryClient, VueQueryPlugin } from '@tanstack/vue-query'
import { flushPromises, mount } from '@vue/test-utils'
import { type Component, ref } from 'vue'
import { createMemoryHistory, createRouter, type LocationQueryRaw } from 'vue-router'
import { vi } from 'vitest'

import { editorContext } from '@/areas/catalogue/editorContext'
import { blankSheet } from '@/areas/catalogue/sheetDraft'
import { asking } from '@/shared/api/queries'
import type { FieldError, Finding, ImportView, Right, SheetInput } from '@/shared/api/types'
import { session } from '@/shared/session/session'
import { vuetify } from '@/shared/theme'

// Overlays follow the visible part of the window, which this environment does not have.
vi.stubGlobal(
  'visualViewport',
  Object.assign(new EventTarget(), { width: 1280, height: 800, offsetLeft: 0, offsetTop: 0 }),
)

export interface Asked {
  method: string
  path: string
  headers: Headers
  body: unknown
}

/** Answers every request by its method and path; what was asked is kept. A number is a status, with a problem document. */
export function serve(answers: Record<string, unknown | ((asked: Asked) => unknown)>): Asked[] {
  const asked: Asked[] = []
  vi.stubGlobal('fetch', async (request: Request) => {
    const url = new URL(request.url)
    const sent = await request.text()
    const one: Asked = {
      method: request.method,
      path: url.pathname.replace('/api/v1', '') + url.search,
      headers: request.headers,
      body: sent.startsWith('{') || sent.startsWith('[') ? JSON.parse(sent) : sent,
    }
    asked.push(one)
    const given = answers[`${one.method} ${url.pathname.replace('/api/v1', '')}`]
    const answer = typeof given === 'function' ? await given(one) : given
    if (answer instanceof Response) return answer
    if (answer === undefined) return problem(404, 'not_found')
    return new Response(JSON.stringify(answer), { headers: { 'Content-Type': 'application/json' } })
  })
  return asked
}

/** An import as the server tells of it. */
export const importView = (state: ImportView['state'], more: object = {}) => ({
  id: 'i',
  preview: true,
  state,
  phase: null,
  done: 0,
  of: 0,
  bundle: null,
  imported: null,
  reference_file: null,
  remarks: [],
  faults: [],
  fault_count: 0,
  why: null,
  ...more,
})

export function problem(status: number, code: string, errors: FieldError[] = [], more = {}): Response {
  const body = {
    type: 'urn:x',
    title: code,
    status,
    detail: '',
    code,
    request_id: 'r',
    errors,
    current_version: 5,
    ...more,
  }
  return new Response(JSON.stringify(body), {
    status,
    headers: { 'Content-Type': 'application/problem+json' },
  })
}

export function enter(rights: Right[] = ['read', 'read_drafts', 'write_sheets']) {
  session.account = {
    id: 'p',
    login: 'p',
    name: 'P',
    role: 'author',
    rights,
    version: 1,
  } as unknown as typeof session.account
}

/** Words as one would type them: without the narrow spaces between a number and its sign. */
export const plain = (said: string) => said.replaceAll('\u202f', ' ')

/** Waits for what comes by and by; generous for a busy machine. */
export const eventually = (check: () => void | Promise<void>) => vi.waitFor(check, { timeout: 10_000 })

/** A mounted component with everything that the application gives it. */
export async function mounted(
  component: Component,
  props: Record<string, unknown> = {},
  provide = {},
  query: LocationQueryRaw = {},
  at = 'catalogue',
) {
  const page = { template: '<div />' }
  const names = ['catalogue', 'sheet', 'edit-test', 'new-test', 'history', 'structures', 'vocabulary-history']
  names.push(
    'references',
    'extractions',
    'exchange',
    'table-import',
    'pooling',
    'likelihood',
    'patient',
    'battery',
    'examinations',
    'own',
  )
  names.push('study-size', 'guide', 'people', 'prevalence', 'conflicts', 'plans', 'new-plan')
  const router = createRouter({
    history: createMemoryHistory(),
    routes: [
      ...names.map((name) => ({ path: `/${name}/:id?`, name, component: page })),
      { path: '/extraction/:extraction', name: 'extraction', component: page },
      { path: '/snapshot/:snapshot', name: 'snapshot', component: page },
      ...['examination', 'examine'].map((name) => ({
        path: `/${name}/:examination?`,
        name,
        component: page,
      })),
      ...['plan', 'edit-plan', 'plan-history'].map((name) => ({
        path: `/${name}/:plan?`,
        name,
        component: page,
      })),
    ],
  })
  await router.push({ name: at, query })
  const client = new QueryClient({ defaultOptions: { queries: asking } })
  const wrapper = mount(component, {
    props,
    attachTo: document.body,
    global: { plugins: [router, [VueQueryPlugin, { queryClient: client }], vuetify], provide },
  })
  await flushPromises()
  return { wrapper, router }
}

/** What the parts of the editor share, around a sheet. */
export function editor(sheet: Partial<SheetInput> = {}) {
  const draft = ref<SheetInput>({ ...blankSheet('hand_wrist', 'Weakness'), ...sheet })
  const errors = ref<FieldError[]>([])
  const findings = ref<Finding[]>([])
  const context = {
    draft,
    errors,
    findings,
    structures: ref(['Short thumb abductor']),
    conditions: ref(['Weakness']),
  }
  return { draft, errors, findings, provide: { [editorContext as symbol]: context } }
}
