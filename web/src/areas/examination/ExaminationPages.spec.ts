import { enableAutoUnmount, flushPromises } from '@vue/test-utils'
import { afterEach, beforeEach, describe, expect, it } from 'vitest'

import type { ExaminationConduct } from '@/shared/api/types'
import { type Asked, enter, eventually, mounted, plain, problem, serve } from '@/shared/mount.setup'
import { outage } from '@/shared/outage'
import { undoBar } from '@/shared/undo'
import { finished, own, running, saved, sheets } from './examination.setup'
import ExaminationPage from './ExaminationPage.vue'
import ExaminationsPage from './ExaminationsPage.vue'
import ExaminePage from './ExaminePage.vue'
import OwnPage from './OwnPage.vue'

// What is left of one test would send its entries in the next.
enableAutoUnmount(afterEach)

const conductOf = (one: Asked | undefined) => (one!.body as { conduct: ExaminationConduct }).conduct
const puts = (asked: Asked[]) => asked.filter((it) => it.method === 'PUT')
const press = (name: string) => {
  document.body.dispatchEvent(new KeyboardEvent('keydown', { key: name, bubbles: true }))
  return flushPromises()
}
const examine = async (answers: object = {}, at = 'a') => {
  const asked = serve({ ...sheets, 'GET /examinations/e': running, 'PUT /examinations/e': saved, ...answers })
  const { wrapper, router } = await mounted(ExaminePage, { examination: 'e' }, {}, { at }, 'examine')
  await eventually(() => expect(wrapper.text()).toContain('amber 17'))
  return { asked, wrapper, router }
}

describe('an examination that goes on', () => {
  beforeEach(() => {
    document.body.innerHTML = ''
    localStorage.clear()
    outage.cause = null
    enter()
  })

  it('asks first, shows one test, and keeps every entry by one key', async () => {
    const { asked, wrapper, router } = await examine({}, '')
    expect(wrapper.get('[data-test=examine-before]').text()).toContain('Any fall?')
    await wrapper.get('[data-test=answer-no]').trigger('click')
    await eventually(() =>
      expect(puts(asked).at(-1)?.body).toMatchObject({ patient: { answers: { k: 'no' } } }),
    )
    expect(plain(wrapper.get('[data-test=probability-row]').text())).toContain('30 %')
    expect(wrapper.get('footer').text()).toContain('changes what is done in 40 of 100')
    await press('ArrowRight')
    await eventually(() => expect(router.currentRoute.value.query.at).toBe('a'))
    await eventually(() => expect(wrapper.text()).toContain('Press down'))
    for (const said of [
      'Knees bent',
      'Tell me when it hurts',
      'The familiar pain comes',
      'Pain down the leg',
      'hold 30 s',
    ])
      expect(wrapper.text()).toContain(said)
    await press('3')
    await press('1')
    await eventually(() => expect(wrapper.findAll('[data-test=attempt]')).toHaveLength(2))
    await eventually(() => expect(wrapper.get('[data-test=kept]').text()).toBe('Kept'))
    const { tests } = conductOf(puts(asked).at(-1))
    // Sound side first, then the other one.
    expect(tests[0]!.attempts.map((it) => [it.side, it.shown])).toEqual([
      ['sound', 'negative'],
      ['affected', 'positive'],
    ])
    expect(wrapper.get('[data-test=test-reading]').text()).toBe('Positive')
    await press('u')
    await eventually(() => expect(conductOf(puts(asked).at(-1)).tests[0]!.attempts).toHaveLength(1))
  })

  it('asks why an attempt tells nothing, and marks the last attempt', async () => {
    const { asked, wrapper } = await examine()
    await eventually(() => expect(wrapper.find('[data-test=shown-unable]').exists()).toBe(true))
    await press('4')
    await press('2')
    await eventually(() => expect(wrapper.findAll('[data-test=attempt]')).toHaveLength(1))
    expect(wrapper.get('[data-test=attempt]').text()).toContain('Not interpretable: compensation')
    await wrapper.get('[data-test=shown-unable]').trigger('click')
    await wrapper.get('[data-test=why-weakness]').trigger('click')
    await wrapper.get('[data-test=shown-level]').trigger('click')
    await wrapper.get('[data-test=attempt-pitfall]').trigger('change')
    await eventually(() =>
      expect(conductOf(puts(asked).at(-1)).tests[0]!.attempts).toMatchObject([
        { unreadable: 'compensation', unable: null },
        { shown: 'unable', unable: 'weakness' },
        { shown: 'level', level: 'hard', pitfalls: ['Guards'] },
      ]),
    )
  })

  it('is interrupted at once by an urgent finding, also without a connection', async () => {
    const { wrapper } = await examine({
      'PUT /examinations/e': () => {
        throw new TypeError('away')
      },
    })
    await eventually(() => expect(wrapper.find('[data-test=urgent-found]').exists()).toBe(true))
    await wrapper.get('[data-test=urgent-found]').trigger('click')
    await eventually(() => expect(document.querySelector('[data-test=urgent-alert]')).not.toBeNull())
    const alert = document.querySelector('[data-test=urgent-alert]')!
    expect(alert.textContent).toContain('Send to hospital.')
    expect(alert.textContent).toContain('At once.')
    ;(alert.querySelector('[data-test=urgent-not-done]') as HTMLElement).click()
    await eventually(() =>
      expect(document.querySelector('.v-overlay--active [data-test=urgent-alert]')).toBeNull(),
    )
  })

  it('is interrupted by a measured value whose reading is urgent, once', async () => {
    const { wrapper } = await examine({ 'POST /readings': { rows: [0] } })
    const field = () => wrapper.find('[data-test="try-Gap"] input')
    await eventually(() => expect(field().exists()).toBe(true))
    expect(wrapper.findAll('[data-test=urgent-found]').map((it) => it.text())).toEqual([
      'Found: Numb saddle',
      'Found: Gap at least 12 mm: Ring torn',
    ])
    const alert = () => document.querySelector('.v-overlay--active [data-test=urgent-alert]')
    await field().setValue('14')
    await eventually(() => expect(alert()?.textContent).toContain('Gap at least 12 mm: Ring torn'))
    expect(alert()!.textContent).toContain('Send for imaging.')
    ;(alert()!.querySelector('[data-test=urgent-done]') as HTMLElement).click()
    await eventually(() => expect(alert()).toBeNull())
    await field().setValue('15')
    await flushPromises()
    expect(alert()).toBeNull()
  })

  it('says why entries were not kept where no field is at fault, and sends them again when asked', async () => {
    let broken = true
    const { asked, wrapper } = await examine({
      'PUT /examinations/e': (one: Asked) => (broken ? problem(500, 'internal') : saved(one)),
    })
    await eventually(() => expect(wrapper.find('[data-test=shown-positive]').exists()).toBe(true))
    await press('1')
    const trouble = () => wrapper.find('[data-test=examine-trouble]')
    await eventually(() => expect(trouble().text()).toContain('stays on this device'))
    broken = false
    await trouble().get('button').trigger('click')
    await eventually(() => expect(wrapper.get('[data-test=kept]').text()).toBe('Kept'))
    expect(trouble().exists()).toBe(false)
    expect(conductOf(puts(asked).at(-1)).tests[0]!.attempts).toHaveLength(1)
  })

  it('keeps entries on the device while the connection is away, over a reload, and sends them after it', async () => {
    let away = true
    const put = (one: Asked) => {
      if (away) throw new TypeError('away')
      return saved(one)
    }
    const first = await examine({ 'PUT /examinations/e': put })
    await eventually(() => expect(first.wrapper.find('[data-test=shown-positive]').exists()).toBe(true))
    await press('1')
    await eventually(() =>
      expect(first.wrapper.get('[data-test=kept]').text()).toContain('Kept on this device'),
    )
    first.wrapper.unmount()
    away = false
    outage.cause = null
    const { asked, wrapper } = await examine({ 'PUT /examinations/e': put })
    await eventually(() => expect(puts(asked)).toHaveLength(1))
    expect(conductOf(puts(asked)[0]).tests[0]!.attempts).toHaveLength(1)
    expect(puts(asked)[0]!.headers.get('If-Match')).toBe('"1"')
    await eventually(() => expect(wrapper.get('[data-test=kept]').text()).toBe('Kept'))
    expect(localStorage).toHaveLength(0)
  })

  it('lets the examiner choose when another device was faster', async () => {
    let meanwhile = true
    const { asked, wrapper } = await examine({
      'PUT /examinations/e': (one: Asked) => (meanwhile ? problem(412, 'changed_meanwhile') : saved(one)),
    })
    await eventually(() => expect(wrapper.find('[data-test=shown-positive]').exists()).toBe(true))
    await press('1')
    await eventually(() => expect(wrapper.find('[data-test=examine-conflict]').exists()).toBe(true))
    meanwhile = false
    await wrapper.get('[data-test=examine-conflict] button').trigger('click')
    await eventually(() => expect(wrapper.find('[data-test=examine-conflict]').exists()).toBe(false))
    expect(puts(asked).at(-1)!.headers.get('If-Match')).toBe('"5"')
  })

  it('says why it cannot be finished, and ends in its record', async () => {
    const fault = {
      field: 'conclusion.text',
      code: 'missing',
      value: '',
      message: 'Nothing is concluded.',
      remedy: 'Write it.',
    }
    let refuse = true
    const { asked, wrapper, router } = await examine(
      {
        'POST /examinations/e/finish': () => (refuse ? problem(422, 'invalid', [fault as never]) : finished),
      },
      'end',
    )
    await wrapper.get('[data-test=finish]').trigger('click')
    await eventually(() =>
      expect(wrapper.get('[data-test=finish-faults]').text()).toContain('Nothing is concluded.'),
    )
    expect(wrapper.text()).toContain('Raise: not done')
    await wrapper.get('[data-test=conclusion-undecided] input').setValue(true)
    await wrapper.get('[data-test=must-not-miss] input').trigger('change')
    await wrapper.get('[data-test=add-repeat]').trigger('click')
    await eventually(() => expect(conductOf(puts(asked).at(-1)).repeats).toHaveLength(1))
    expect(conductOf(puts(asked).at(-1)).conclusion.undecided).toBe(true)
    refuse = false
    await wrapper.get('[data-test=finish]').trigger('click')
    await eventually(() => expect(router.currentRoute.value.name).toBe('examination'))
  })
})

describe('records of examinations', () => {
  beforeEach(() => {
    document.body.innerHTML = ''
    undoBar.open = false
    enter()
  })

  it('are listed with what is due, and deleted with undo', async () => {
    const row = {
      id: 'e',
      version: 4,
      label: 'amber 17',
      region: 'pelvis',
      plan_id: 'p',
      title: 'Standard',
      conditions: ['Sore joint'],
      action: 'refer',
      concluded: 'Not the joint',
      urgent: true,
      due: '2026-12-01',
      overdue: true,
      sample: true,
      created_at: running.created_at,
      finished_at: finished.finished_at,
      shared_at: null,
    }
    const asked = serve({
      'GET /examinations': { rows: [row], total: 51 },
      'GET /examinations/waiting': { overdue: 1, due: 0, awaiting: 3 },
      'DELETE /examinations/e': { ...finished, version: 5 },
      'POST /examinations/e/restore': { ...finished, version: 6 },
    })
    const { wrapper } = await mounted(
      ExaminationsPage,
      {},
      {},
      { state: 'due', search: 'amber' },
      'examinations',
    )
    await eventually(() => expect(wrapper.findAll('[data-test=examination-row]')).toHaveLength(1))
    expect(asked.find((it) => it.path.startsWith('/examinations'))!.path).toContain('state=due&search=amber')
    expect(wrapper.get('[data-test=due]').text()).toBe('overdue since 1 December 2026')
    const waiting = wrapper.findAll('[data-test=examinations-waiting] a')
    expect(waiting.map((it) => it.text())).toEqual([
      '1 examination has something overdue',
      '3 await a reference result',
    ])
    expect(waiting[1]!.attributes('href')).toContain('state=awaiting')
    expect(wrapper.get('[data-test=examinations-csv]').attributes('href')).toBe(
      '/api/v1/examinations.csv?state=due&search=amber',
    )
    await wrapper.get('[data-test=delete-examination]').trigger('click')
    await eventually(() => expect(undoBar.open).toBe(true))
    await undoBar.action!()
    expect(asked.find((it) => it.path.endsWith('/restore'))!.headers.get('If-Match')).toBe('"5"')
  })

  it('say what was found, what it was worth then, what was left out and why', async () => {
    const asked = serve({
      'GET /examinations/e': finished,
      'PUT /examinations/e/sharing': { ...finished, shared_at: finished.finished_at },
      'PUT /examinations/e': (one: Asked) => ({ ...finished, ...(one.body as object), version: 5 }),
    })
    const { wrapper } = await mounted(ExaminationPage, { examination: 'e' }, {}, {}, 'examination')
    await eventually(() => expect(wrapper.find('[data-test=record-test]').exists()).toBe(true))
    const said = plain(wrapper.text())
    for (const words of [
      'affected side: Negative',
      'pain at 12 s',
      'Guards pushes towards negative',
      'Not interpretable',
      'LR 0.60 (0.30–0.90), 3 studies, then 20 %',
      'Pooled figures that were used: Raise ab12.',
      'Spread: too irritating for this complaint',
      'Any fall? No',
      'Break (asked about)',
      'refer, colleague, by 1 December 2026',
      'Numb saddle',
    ])
      expect(said).toContain(words)
    await wrapper.get('[data-test=share]').trigger('click')
    await eventually(() => expect(document.querySelector('[data-test=share-now]')).not.toBeNull())
    const now = () => document.querySelector('[data-test=share-now]') as HTMLButtonElement
    expect(now().disabled).toBe(true)
    ;(document.querySelector('[data-test=confirm-nobody] input') as HTMLInputElement).click()
    await eventually(() => expect(now().disabled).toBe(false))
    now().click()
    await eventually(() =>
      expect(asked.find((it) => it.path.endsWith('/sharing'))?.body).toEqual({
        shared: true,
        identifies_nobody: true,
      }),
    )
    await wrapper.get('[data-test=edit-conclusion]').trigger('click')
    await wrapper.get('[data-test=conclusion-done] input').setValue(true)
    await wrapper.get('form').trigger('submit')
    await eventually(() =>
      expect(
        conductOf(asked.find((it) => it.path === '/examinations/e' && it.method === 'PUT')).conclusion.done,
      ).toBe(true),
    )
  })
})

describe('what was found out later', () => {
  beforeEach(() => {
    document.body.innerHTML = ''
    enter()
  })

  it('is entered for each condition once the findings are locked, and corrected in the open', async () => {
    const record = { ...finished, reference: [] as object[] }
    const asked = serve({
      'GET /examinations/e': () => record,
      'PUT /examinations/e/reference': (one: Asked) => {
        record.reference = (one.body as { results: object[] }).results
        return record
      },
    })
    const { wrapper } = await mounted(ExaminationPage, { examination: 'e' }, {}, {}, 'examination')
    await eventually(() => expect(wrapper.find('[data-test=enter-reference]').exists()).toBe(true))
    expect(wrapper.get('[data-test=reference]').text()).toContain('Nothing was found out yet.')
    await wrapper.get('[data-test=enter-reference]').trigger('click')
    await wrapper.get('[data-test=found-present]').setValue()
    wrapper.getComponent({ name: 'VSelect' }).vm.$emit('update:modelValue', 'operation')
    await wrapper.get('[data-test=reference] form').trigger('submit')
    const sent = () => asked.filter((it) => it.path.endsWith('/reference')).at(-1)?.body
    await eventually(() =>
      expect(sent()).toMatchObject({
        results: [{ condition: 'Sore joint', found: 'present', by: 'operation' }],
        corrects: false,
      }),
    )
    const again = (await mounted(ExaminationPage, { examination: 'e' }, {}, {}, 'examination')).wrapper
    await eventually(() => expect(again.find('[data-test=reference-result]').exists()).toBe(true))
    expect(again.get('[data-test=reference-result]').text()).toContain('present, operation')
    expect(again.get('[data-test=enter-reference]').text()).toBe('Correct reference result')
    await again.get('[data-test=enter-reference]').trigger('click')
    await again.get('[data-test=found-unclear]').setValue()
    await again.get('[data-test=reference] form').trigger('submit')
    await eventually(() => expect(sent()).toMatchObject({ results: [{ found: 'unclear' }], corrects: true }))
  })

  it('says how one’s own probabilities and tests hold beside the published ones', async () => {
    let answer: object = own
    const asked = serve({
      'GET /regions': [{ region: 'pelvis', tests: 3 }],
      'GET /conditions': [{ region: 'pelvis', name: 'Sore joint', tests: 3, pre_test: 0.3 }],
      'GET /examinations/own': () => answer,
    })
    const { wrapper } = await mounted(OwnPage, {}, {}, { region: 'pelvis' }, 'own')
    await eventually(() => expect(wrapper.find('[data-test=own-test]').exists()).toBe(true))
    expect(asked.at(-1)!.path).toContain('region=pelvis&condition=Sore%20joint')
    const said = plain(wrapper.text())
    for (const words of [
      '20 of 26 finished examinations',
      'In the records of all examiners here 20 %10–30 %, of 40 records',
      '0.123',
      '0.80 ± 0.20',
      '80 % given; there in 8 of 12',
      'negative: 1 with it, 5 without, 6 not known',
      'Sensitivity 80 %',
      'a further study is expected at 2.0–6.0. As published.',
      'LR− not estimable; too few studies say where a further one is expected.',
    ])
      expect(said).toContain(words)
    answer = { ...own, closed: 0, calibration: null, prevalence: null, tests: [] }
    const none = await mounted(OwnPage, {}, {}, { region: 'pelvis' }, 'own')
    await eventually(() =>
      expect(none.wrapper.get('[data-test=own-none]').text()).toContain(
        '26 finished examinations ask about this condition',
      ),
    )
  })
})
