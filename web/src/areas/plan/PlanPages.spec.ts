import { flushPromises } from '@vue/test-utils'
import { beforeEach, describe, expect, it } from 'vitest'

import type { ExaminationPlanInput, PlanOrderInput } from '@/shared/api/types'
import { type Asked, enter, eventually, mounted, plain, problem, serve } from '@/shared/mount.setup'
import { answered, stored } from './plan.setup'
import { planDraft } from './planDraft'
import PlanEditPage from './PlanEditPage.vue'
import PlanHistoryPage from './PlanHistoryPage.vue'
import PlanPage from './PlanPage.vue'
import PlansPage from './PlansPage.vue'

const row = (test: string, name: string, more: object = {}) => ({
  test,
  name,
  basis: null,
  mechanisms: [],
  structures: [],
  ...more,
})
const answers = (more: object = {}) => ({
  'GET /regions': [{ region: 'pelvis', tests: 3 }],
  'GET /conditions': [
    { region: 'pelvis', name: 'Sore joint', tests: 3, pre_test: 0.3 },
    { region: 'pelvis', name: 'Weak trunk', tests: 1, pre_test: 0.2 },
  ],
  'GET /plans/tests': [row('a', 'Raise'), row('b', 'Spread'), row('c', 'Squeeze')],
  'GET /plans/p': stored,
  'GET /unsaved/plan/p': () => new Response('null', { headers: { 'Content-Type': 'application/json' } }),
  'GET /unsaved/plan/new': () => new Response('null', { headers: { 'Content-Type': 'application/json' } }),
  'PUT /unsaved/plan/p': () => new Response(null, { status: 204 }),
  'PUT /unsaved/plan/new': () => new Response(null, { status: 204 }),
  'DELETE /unsaved/plan/p': () => new Response(null, { status: 204 }),
  'DELETE /unsaved/plan/new': () => new Response(null, { status: 204 }),
  'POST /plans/order': (one: Asked) =>
    answered((one.body as PlanOrderInput).tests.map((it) => String(it.test))),
  ...more,
})
const names = (of: Awaited<ReturnType<typeof mounted>>['wrapper']) =>
  of.findAll('[data-test=planned] b').map((it) => it.text())

describe('a plan of an examination', () => {
  beforeEach(() => (document.body.innerHTML = ''))

  it('is read in groups by position, with reasons, what each test changes, and what became of its sheets', async () => {
    enter(['read', 'read_drafts', 'write_sheets'])
    serve(answers())
    const { wrapper } = await mounted(PlanPage, { plan: 'p' }, {}, { region: 'pelvis' }, 'plan')
    await eventually(() => expect(wrapper.findAll('[data-test=worth]')).toHaveLength(3))
    expect(wrapper.findAll('.position').map((it) => it.text())).toEqual([
      'lying face up',
      'Position not given',
    ])
    expect(wrapper.findAll('[data-test=because]').map((it) => it.text())).toEqual([
      'same position as the one before; after Raise',
    ])
    const worth = wrapper.findAll('[data-test=worth]').map((it) => it.text())
    expect(worth[0]).toContain('changes the decision in 12 of 100')
    expect(worth[1]).toContain('changes the decision in fewer than 1 of 100')
    expect(worth[2]).toContain('alone it would change the decision in 40 of 100')
    const outlook = plain(wrapper.get('[data-test=outlook]').text())
    expect(outlook).toContain('on average 1.4 of 2 tests')
    expect(outlook).toContain('reassure below 10 %, treat above 70 %')
    expect(outlook).toContain(
      'to reassure after 1 negative result, to treat after 2 positive results in a row',
    )
    expect(wrapper.findAll('[data-test=ends] dt').map((it) => it.text())).toEqual(['62', '8', '30'])
    expect(wrapper.findAll('[data-test=ends] dd').map((it) => it.text())).toEqual([
      'reassure',
      'not decided',
      'treat',
    ])
    expect(worth[0]).toContain('still needed in 12 of 100')
    expect(wrapper.findAll('[data-test=enough]').map((it) => it.text())).toEqual([
      'enough to reassure from here on, if all so far were negative',
      'enough to treat from here on, if all so far were positive',
    ])
    expect(wrapper.get('[data-test=changed-sheets]').text()).toContain('Spread: another text of its sheet')
    expect(wrapper.get('[data-test=order-cost]').text()).toContain('This is the proposed order')
  })

  it('follows the proposed order until a test is moved by hand, and then says what that costs', async () => {
    enter(['read', 'read_drafts', 'write_sheets', 'write_studies'])
    const asked = serve(
      answers({ 'POST /plans': (one: Asked) => ({ ...stored, ...(one.body as object), id: 'p' }) }),
    )
    const { wrapper, router } = await mounted(PlanEditPage, {}, {}, { region: 'pelvis' }, 'new-plan')
    await eventually(() => expect(wrapper.find('[data-test=add-test]').exists()).toBe(true))
    const add = (id: string) =>
      wrapper.findAllComponents({ name: 'VAutocomplete' }).at(-1)!.vm.$emit('update:modelValue', id)
    for (const id of ['c', 'b', 'a']) {
      add(id)
      await flushPromises()
    }
    await eventually(() => expect(names(wrapper)).toEqual(['Raise', 'Spread', 'Squeeze']))
    await wrapper.get('[data-place="0"] .later').trigger('click')
    expect(names(wrapper)).toEqual(['Spread', 'Raise', 'Squeeze'])
    await eventually(() =>
      expect(wrapper.findAll('[data-test=costs] li').map((it) => it.text())).toEqual([
        'turns the patient 2 times instead of 1',
        'does irritating tests earlier',
      ]),
    )
    await eventually(() =>
      expect(wrapper.get('[data-test=order-cost]').text()).toContain('Raise should come before Spread.'),
    )
    await wrapper.get('[data-test=propose]').trigger('click')
    await eventually(() => expect(names(wrapper)).toEqual(['Raise', 'Spread', 'Squeeze']))
    await wrapper.get('[data-place="2"] [aria-label="Remove Squeeze"]').trigger('click')
    await wrapper.get('[data-test=plan-title] input').setValue('Module 3')
    await wrapper.get('form').trigger('submit')
    await eventually(() => expect(router.currentRoute.value.name).toBe('plan'))
    const sent = asked.find((one) => one.method === 'POST' && one.path === '/plans')
      ?.body as ExaminationPlanInput
    expect(sent.questions).toEqual([
      {
        condition: 'Sore joint',
        pre_test: 0.3,
        reassure_below: 0.1,
        treat_above: 0.7,
        between: [],
        above: 'treat',
      },
    ])
    expect(sent.tests?.map((it) => it.test)).toEqual(['a', 'b'])
  })

  it('goes on with what was left, tells who was slower, and shows faults at their fields', async () => {
    enter(['read', 'read_drafts', 'write_sheets', 'write_studies'])
    const left = { version: 3, content: { ...planDraft(stored), title: 'Mine' }, at: '2026-11-30T11:00:00Z' }
    let refusal: () => unknown = () => problem(412, 'changed_meanwhile')
    const asked = serve(answers({ 'GET /unsaved/plan/p': left, 'PUT /plans/p': () => refusal() }))
    const { wrapper } = await mounted(PlanEditPage, { plan: 'p' }, {}, { region: 'pelvis' }, 'edit-plan')
    await eventually(() => expect(wrapper.find('[data-test=resumed]').exists()).toBe(true))
    const title = wrapper.get<HTMLInputElement>('[data-test=plan-title] input')
    expect(title.element.value).toBe('Mine')
    await wrapper.get('form').trigger('submit')
    await eventually(() => expect(wrapper.get('[data-test=form-failure]').text()).toContain('Somebody saved'))
    const fault = (field: string, message: string) => ({
      field,
      code: 'invalid' as const,
      value: '',
      message,
      remedy: 'Do it.',
    })
    refusal = () =>
      problem(422, 'invalid', [fault('title', 'Taken.'), fault('tests[1].variant', 'No such variant.')])
    await wrapper.get('form').trigger('submit')
    await eventually(() => expect(wrapper.get('[data-test=plan-title]').text()).toContain('Taken. Do it.'))
    expect(wrapper.get('[data-place="1"]').text()).toContain('No such variant.')
    const versions = asked.filter((one) => one.path === '/plans/p' && one.method === 'PUT')
    expect(versions.map((one) => one.headers.get('If-Match'))).toEqual(['"3"', '"5"'])
    await wrapper.get('[data-test=begin-anew]').trigger('click')
    await eventually(() => expect(title.element.value).toBe('Standard'))
  })

  it('fits a patient: an unsafe answer takes a test out, says why and what to do instead, and stops where it must', async () => {
    enter(['read'])
    const caution = (code: object) => ({
      code: 'caution',
      caution: 'Stiff arm.',
      instead: '',
      within_hours: null,
      of: 0,
      ...code,
    })
    const question = {
      key: 'k',
      question: 'Can you reach a shelf?',
      about: ['Stiff arm.'],
      help: '',
      unsafe_answers: ['no'],
      tests: [1],
    }
    const asked = serve(
      answers({
        'GET /tests': [],
        'POST /plans/p/standing': { questions: [], must_not_miss: [], end: 'open', next: 1, minutes: [] },
        'POST /plans/p/fit': (one: Asked) => {
          const said = (one.body as { answers: Record<string, string> }).answers.k
          const out = said === 'no'
          const open = { code: 'open', question: question.question }
          const b = {
            test: 'b',
            left_out: false,
            alternatives: [] as object[],
            state: 'locked',
            reasons: [open] as object[],
          }
          if (said)
            Object.assign(
              b,
              out
                ? { state: 'not_now', reasons: [caution({ within_hours: 24 })] }
                : { state: 'ready', reasons: [] },
            )
          const fit = { state: 'locked', reasons: [open] }
          if (out)
            b.alternatives = [
              { situation: 'Stiff arm.', instead: 'Raise it.', test: { test: 'a', name: 'Raise', fit } },
            ]
          const stop =
            said === 'unknown'
              ? { caution: 'Clumsy hands.', instead: 'Refer today.', within_hours: 0, of: 0 }
              : null
          return {
            questions: [{ ...question, scope: 'test', answer: null }],
            situations: [],
            screened: ['a', 'b'],
            positions: ['lying_face_up'],
            equipment: [],
            tests: [
              {
                test: 'a',
                left_out: false,
                alternatives: [],
                state: 'with_care',
                reasons: [caution({ caution: 'Go slowly.' })],
              },
              b,
              { test: 'c', left_out: true, alternatives: [], state: 'not_now', reasons: [] },
            ],
            stop,
            anything: !stop,
          }
        },
      }),
    )
    const { wrapper, router } = await mounted(PlanPage, { plan: 'p' }, {}, { region: 'pelvis' }, 'plan')
    await eventually(() => expect(wrapper.find('[data-test=fit-plan]').exists()).toBe(true))
    await wrapper.get('[data-test=fit-plan]').trigger('click')
    const lines = () => wrapper.findAll('[data-test=fit-said]').map((it) => it.text())
    await eventually(() =>
      expect(lines()).toEqual([
        'With care: Go slowly.',
        'Locked: first find out: Can you reach a shelf?',
        'Optional: not asked for.',
      ]),
    )
    // Of what is locked no result is asked.
    await router.push({ query: { ...router.currentRoute.value.query, try: 'true' } })
    await eventually(() =>
      expect(wrapper.get('[data-test=standing-end]').text()).toContain(
        'Spread, once the open question is answered.',
      ),
    )
    expect(wrapper.findAll('[data-test=plan-result]')).toHaveLength(1)
    const press = (answer: string) =>
      wrapper.get(`[data-test=fit-question] input[value=${answer}]`).trigger('click')
    await press('no')
    await eventually(() => expect(names(wrapper)).toEqual(['Raise', 'Spread', 'Squeeze']))
    await eventually(() => expect(lines()[1]).toBe('Stiff arm. Within 24 h.'))
    await eventually(() =>
      expect(wrapper.findAll('.position').map((it) => it.text())).toEqual(['lying face up', 'Not now']),
    )
    expect(wrapper.get('[data-test=alternative]').text()).toBe(
      'Stiff arm. Instead: Raise it. Raise is locked by an open question.',
    )
    expect(wrapper.get('[data-test=fit-unsafe]').text()).toContain('Decides about 1 test')
    // What is not done is not counted on.
    await eventually(() => {
      const order = asked.findLast((one) => one.path === '/plans/order')?.body as PlanOrderInput
      expect(order.tests.map((it) => it.optional)).toEqual([false, true, true])
    })
    expect(router.currentRoute.value.query).toMatchObject({ fit: 'true', said: ['k.no'] })
    await press('unknown')
    await eventually(() =>
      expect(wrapper.get('[data-test=fit-stop]').text()).toMatch(/Clumsy hands.*Refer today.*At once/s),
    )
    expect(wrapper.find('[data-test=plan-standing], [data-test=plan-result]').exists()).toBe(false)
    await wrapper.get('[data-test=fit-clear]').trigger('click')
    await eventually(() => expect(router.currentRoute.value.query.said).toBeUndefined())
  })

  it('tries results: where each condition stands, what comes next, and what must not be missed', async () => {
    enter(['read'])
    const standing = (findings: { test: string; positive: boolean }[], asked: string[]) => {
      const share = findings.length ? 0.05 : 0.3
      const now = { estimate: share, lower: share, upper: share * 3 }
      const step = { test: 0, lr: null, after: now, action: 'reassure' }
      return {
        questions: [
          {
            condition: 'Sore joint',
            steps: findings.length ? [step] : [],
            now,
            action: findings.length ? 'reassure' : null,
            whole_interval: false,
            state: findings.length ? 'decided' : 'open',
            open: [{ test: 1, information: 0.123, changes: 0.25 }],
          },
        ],
        must_not_miss: [{ condition: 'Broken', asked: asked.includes('Broken'), in_plan: false }],
        end: !findings.length ? 'open' : asked.length ? 'finished' : 'must_not_miss',
        next: findings.length ? null : 1,
        minutes: [null, 2, null],
      }
    }
    const asked = serve(
      answers({
        'GET /tests': [
          { id: 'b', levels: [{ name: 'none' }, { name: '1.5 cm' }] },
          { id: 'b', levels: [{ name: 'none' }] },
        ],
        'POST /plans/p/standing': (one: Asked) => {
          const { findings, asked } = one.body as { findings: []; asked: string[] }
          return standing(findings, asked)
        },
      }),
    )
    const { wrapper, router } = await mounted(PlanPage, { plan: 'p' }, {}, { region: 'pelvis' }, 'plan')
    await eventually(() => expect(wrapper.find('[data-test=try-results]').exists()).toBe(true))
    await wrapper.get('[data-test=try-results]').trigger('click')
    const end = () => wrapper.get('[data-test=standing-end]').text()
    await eventually(() => expect(end()).toBe('The examination goes on. Next: Spread.'))
    const said = () => wrapper.findAll('[data-test=result-said]').map((it) => plain(it.text()))
    expect(said()).toEqual(['Open: 2 min, 0.12 bits expected, changes what is done in 25 of 100'])
    const press = (place: number, result: string) =>
      wrapper.get(`[data-place="${place}"] [data-test="result-${result}"]`).trigger('click')
    await press(0, 'negative')
    await eventually(() => expect(end()).toContain('Not finished: a condition that must not be missed'))
    expect(said()).toEqual(['Sore joint now 5.0 %: reassure'])
    expect(plain(wrapper.get('[data-test=standing-question]').text())).toContain(
      'At this probability: reassure. Its interval reaches into another action.',
    )
    await wrapper.get('[data-test=must-not-miss] input').setValue(true)
    await eventually(() => expect(end()).toBe('Enough is known about every condition of the plan.'))
    await press(1, 'level:1.5 cm')
    await eventually(() =>
      expect(asked.findLast((one) => one.path === '/plans/p/standing')?.body).toMatchObject({
        findings: [
          { test: 'a', positive: false },
          { test: 'b', level: '1.5 cm' },
        ],
      }),
    )
    expect(router.currentRoute.value.query.found).toEqual(['a.negative', 'b.level:1.5 cm'])
    await press(1, 'unreadable')
    await eventually(() =>
      expect(asked.findLast((one) => one.path === '/plans/p/standing')?.body).toEqual({
        findings: [{ test: 'a', positive: false }],
        without: ['b'],
        asked: ['Broken'],
      }),
    )
    expect(router.currentRoute.value.query).toMatchObject({
      found: ['a.negative', 'b.unreadable'],
      try: 'true',
    })
    await press(0, 'negative')
    await eventually(() => expect(router.currentRoute.value.query.found).toEqual(['b.unreadable']))
    expect(wrapper.findAll('[data-place="1"] [data-test=plan-result] label').map((it) => it.text())).toEqual([
      'Positive',
      'Negative',
      'Not interpretable',
      'none',
      '1.5 cm',
    ])
    await wrapper.get('[data-test=standing-clear]').trigger('click')
    await eventually(() => expect(end()).toBe('The examination goes on. Next: Spread.'))
  })

  it('says what is done between the thresholds, each action once', async () => {
    enter(['read', 'read_drafts', 'write_sheets', 'write_studies'])
    const asked = serve(
      answers({
        'PUT /plans/p': () =>
          problem(422, 'invalid', [
            {
              field: 'questions[0].between[0].from',
              code: 'invalid',
              value: '',
              message: 'Too low.',
              remedy: 'Raise it.',
            },
          ]),
      }),
    )
    const { wrapper } = await mounted(PlanEditPage, { plan: 'p' }, {}, { region: 'pelvis' }, 'edit-plan')
    await eventually(() => expect(wrapper.find('[data-test=add-action]').exists()).toBe(true))
    await wrapper.get('[data-test=add-action]').trigger('click')
    const select = (test: string) =>
      wrapper.findAllComponents({ name: 'VSelect' }).find((it) => it.attributes('data-test') === test)!
    const offered = (test: string) =>
      (select(test).props('items') as { value: string }[]).map((it) => it.value)
    expect(offered('band-action')).toEqual(['repeat_later', 'image', 'refer'])
    expect(offered('action-above')).toEqual(['image', 'refer', 'treat'])
    select('band-action').vm.$emit('update:modelValue', 'image')
    await flushPromises()
    await wrapper.get('[data-test=band-from] input').setValue('5')
    select('action-above').vm.$emit('update:modelValue', 'refer')
    await flushPromises()
    expect(wrapper.get('[data-test=question-treat_above]').text()).toContain('Refer above')
    await wrapper.get('form').trigger('submit')
    await eventually(() => expect(wrapper.get('[data-test=band-from]').text()).toContain('Too low.'))
    const sent = asked.findLast((one) => one.method === 'PUT' && one.path === '/plans/p')
      ?.body as ExaminationPlanInput
    expect(sent.questions?.[0]).toMatchObject({ between: [{ action: 'image', from: 0.05 }], above: 'refer' })
  })

  it('offers the basic examination first, then what loads the suspected structure, of one mechanism', async () => {
    enter(['read', 'read_drafts', 'write_sheets', 'write_studies'])
    const offered = [
      row('d', 'Look', { basis: 'inspection' }),
      row('e', 'Bend', { mechanisms: ['A fall'] }),
      row('f', 'Press', { mechanisms: ['A fall'], structures: ['Ring'] }),
      row('g', 'Twist', { mechanisms: ['A twist'], structures: ['Ring'] }),
    ]
    const asked = serve(answers({ 'GET /plans/tests': offered }))
    const { wrapper } = await mounted(PlanEditPage, { plan: 'p' }, {}, { region: 'pelvis' }, 'edit-plan')
    await eventually(() => expect(wrapper.find('[data-test=add-mechanism]').exists()).toBe(true))
    const choose = async (test: string, to: unknown) => {
      const select = wrapper
        .findAllComponents({ name: 'VSelect' })
        .find((it) => it.attributes('data-test') === test)
      select!.vm.$emit('update:modelValue', to)
      await flushPromises()
    }
    const items = () =>
      wrapper.findComponent({ name: 'VAutocomplete' }).props('items') as { title: string; subtitle: string }[]
    await eventually(() => expect(items().map((it) => it.title)).toEqual(['Look', 'Bend', 'Press', 'Twist']))
    await choose('add-structure', 'Ring')
    expect(items().map((it) => [it.title, it.subtitle])).toEqual([
      ['Look', 'basic examination: inspection'],
      ['Press', 'puts Ring under test'],
      ['Twist', 'puts Ring under test'],
      ['Bend', ''],
    ])
    await choose('add-mechanism', 'A fall')
    expect(items().map((it) => it.title)).toEqual(['Look', 'Press', 'Bend'])
    wrapper.findComponent({ name: 'VAutocomplete' }).vm.$emit('update:modelValue', 'f')
    await choose('plan-course', 'acute')
    const frame = wrapper
      .findAllComponents({ name: 'VCheckbox' })
      .find((it) => it.attributes('data-test') === 'frame-first')
    frame!.vm.$emit('update:modelValue', false)
    await eventually(() =>
      expect(asked.findLast((one) => one.path === '/plans/order')?.body).toMatchObject({
        setting: 'sports',
        course: 'acute',
        frame_anywhere: true,
        tests: [{ test: 'a' }, { test: 'b' }, { test: 'c' }, { test: 'f' }],
      }),
    )
    await eventually(() =>
      expect(wrapper.get('[data-test=matching]').text()).toContain(
        '1 of 2 studies with people such as these (sports medicine, acute)',
      ),
    )
  })

  it('stands in a list that is searched and sorted, and says when there is none', async () => {
    enter(['read', 'read_drafts', 'write_sheets'])
    const plan = (id: string, title: string, saved_at: string) => ({
      id,
      title,
      saved_at,
      version: 1,
      region: 'pelvis',
      setting: null,
      conditions: ['Sore joint'],
      tests: 1,
      status: 'draft',
      published_version: null,
      sample: true,
    })
    let found = [plan('x', 'Alpha', '2026-11-01T00:00:00Z'), plan('y', 'Beta', '2026-11-02T00:00:00Z')]
    const asked = serve(answers({ 'GET /plans': () => found }))
    const { wrapper, router } = await mounted(PlansPage, {}, {}, { region: 'pelvis' }, 'plans')
    const titles = () => wrapper.findAll('[data-test=plan-row] h2').map((it) => it.text())
    await eventually(() => expect(titles()).toEqual(['Alpha', 'Beta']))
    await router.push({ query: { region: 'pelvis', order: 'saved' } })
    await eventually(() => expect(titles()).toEqual(['Beta', 'Alpha']))
    found = []
    await router.push({ query: { region: 'pelvis', status: 'in_review' } })
    await eventually(() => expect(wrapper.get('[data-test=no-plans]').text()).toContain('No plan fits'))
    expect(asked.at(-1)?.path).toContain('status=in_review')
  })

  it('has a history in words, with the names of its tests', async () => {
    enter(['read', 'read_drafts', 'write_sheets'])
    const { questions, tests, weights, title, region, setting, note } = stored
    const content = { questions, tests, weights, title, region, setting, note, affected_side_first: false }
    const change = (version: number, action: string, more: object, before: object | null) => ({
      kind: 'plan',
      record_id: 'p',
      version,
      action,
      by: 'A. Author',
      at: '2026-11-30T10:00:00Z',
      study: null,
      content: { ...content, ...more },
      before,
    })
    const asked = serve(
      answers({
        'GET /plans/p/history': [
          change(2, 'edited', { title: 'Longer' }, content),
          change(1, 'created', {}, null),
        ],
        'PUT /plans/p': stored,
      }),
    )
    const { wrapper } = await mounted(PlanHistoryPage, { plan: 'p' }, {}, {}, 'plan-history')
    await eventually(() => expect(wrapper.findAll('[data-test=change]')).toHaveLength(2))
    const [edited, created] = wrapper.findAll('[data-test=change]').map((it) => plain(it.text()))
    expect(edited).toContain('Standard')
    expect(created).toContain('1. Raise · Gentle')
    expect(created).toContain('Sore joint: Pre-test probability 30 %; reassure below 10 %, treat above 70 %.')
    await wrapper.get('[data-test=bring-back]').trigger('click')
    await eventually(() => expect(asked.some((one) => one.method === 'PUT')).toBe(true))
    const put = asked.find((one) => one.method === 'PUT')!
    expect([put.headers.get('If-Match'), (put.body as { title: string }).title]).toEqual(['"2"', 'Standard'])
  })
})
