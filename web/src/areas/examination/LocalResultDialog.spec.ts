import { flushPromises } from '@vue/test-utils'
import { beforeEach, describe, expect, it } from 'vitest'

import { study } from '@/areas/evidence/results.setup'
import { enter, eventually, mounted, problem, serve } from '@/shared/mount.setup'
import { undoBar } from '@/shared/undo'
import { own, sheets } from './examination.setup'
import OwnPage from './OwnPage.vue'

const find = <T extends HTMLElement>(css: string) =>
  document.querySelector<T>(`.v-overlay--active [data-test=local-dialog] ${css}`)
const submit = async () => {
  find('form')!.dispatchEvent(new Event('submit', { cancelable: true }))
  await flushPromises()
}
const judged = { domain: 'index_test', concern: false, questions: ['test_read_blind'] }

async function page(local: object | null, save: unknown) {
  let answer: object = { ...own, local }
  const asked = serve({
    ...sheets,
    'GET /regions': [{ region: 'pelvis', tests: 3 }],
    'GET /conditions': [{ region: 'pelvis', name: 'Sore joint', tests: 3, pre_test: 0.3 }],
    'GET /examinations/own': () => answer,
    'GET /appraisals': [{ aspect: 'accuracy', domains: [judged] }],
    'POST /appraisals/accuracy': {},
    'POST /examinations/own/results': save,
    'DELETE /results/r': { id: 'r', version: 2 },
  })
  const { wrapper } = await mounted(OwnPage, {}, {}, { region: 'pelvis' }, 'own')
  await eventually(() => expect(wrapper.find('[data-test=enter-local]').exists()).toBe(true))
  const sent = () => asked.filter((it) => it.path === '/examinations/own/results').at(-1)!.body
  const enteredNow = () => (answer = { ...own, local: { study, results: [{ test: 'a', result: 'r' }] } })
  const deleted = () => asked.filter((it) => it.method === 'DELETE').map((it) => it.headers.get('If-Match'))
  return { wrapper, sent, deleted, enteredNow }
}

describe('local figures', () => {
  beforeEach(() => {
    document.body.innerHTML = ''
    enter(['read', 'write_studies'])
  })

  it('become a result once the study is described and appraised, and say what is missing', async () => {
    let refused = true
    const missing = {
      field: 'appraisal',
      code: 'missing' as const,
      value: '',
      message: 'The appraisal is not complete.',
      remedy: 'Judge the risk of bias in every domain.',
    }
    const { wrapper, sent, deleted, enteredNow } = await page(null, () => {
      if (refused) return problem(422, 'invalid', [missing])
      enteredNow()
      return { id: 'r', version: 1 }
    })
    await wrapper.get('[data-test=enter-local]').trigger('click')
    await eventually(() => expect(find('[data-test=index_test]')).not.toBeNull())
    expect(find('[data-test=local-counts]')!.textContent).toContain(
      '8 true positive, 4 false positive, 1 false negative',
    )
    await submit()
    await eventually(() => expect(find('[role=alert]')?.textContent).toContain('every domain'))
    find<HTMLInputElement>('[data-test=index_test-risk] input[value=high]')!.click()
    const standard = find<HTMLInputElement>('[data-test=local-standard] input')!
    standard.value = 'Operation'
    standard.dispatchEvent(new Event('input'))
    await flushPromises()
    refused = false
    await submit()
    await eventually(() => expect(find('form')).toBeNull())
    expect(sent()).toMatchObject({
      test: 'a',
      condition: 'Sore joint',
      region: 'pelvis',
      reference_standard: 'Operation',
      study: { reference: 'Own examination records: Sore joint' },
      appraisal: { domains: { index_test: { risk: 'high' } } },
    })
    await undoBar.action!()
    expect(deleted()).toEqual(['"1"'])
  })

  it('are brought up to date without another appraisal', async () => {
    const { wrapper, sent } = await page({ study, results: [{ test: 'a', result: 'r' }] }, { id: 'r' })
    expect(wrapper.text()).toContain('In the catalogue as a local result.')
    await wrapper.get('[data-test=enter-local]').trigger('click')
    await eventually(() => expect(find('[data-test=local-study]')?.textContent).toContain(study.reference))
    await submit()
    await eventually(() => expect(sent()).toMatchObject({ study: null, appraisal: null, variant: '' }))
  })

  it('are entered only by those who enter studies', async () => {
    enter(['read'])
    serve({
      'GET /regions': [{ region: 'pelvis', tests: 3 }],
      'GET /conditions': [{ region: 'pelvis', name: 'Sore joint', tests: 3, pre_test: 0.3 }],
      'GET /examinations/own': own,
    })
    const { wrapper } = await mounted(OwnPage, {}, {}, { region: 'pelvis' }, 'own')
    await eventually(() => expect(wrapper.find('[data-test=own-test]').exists()).toBe(true))
    expect(wrapper.find('[data-test=enter-local]').exists()).toBe(false)
  })
})
