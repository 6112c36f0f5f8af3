import { flushPromises } from '@vue/test-utils'
import { beforeEach, describe, expect, it } from 'vitest'

import type { AppraisalView, AskedAspect } from '@/shared/api/types'
import { type Asked, enter, eventually, mounted, problem, serve } from '@/shared/mount.setup'
import { undoBar } from '@/shared/undo'
import AppraisalButton from './AppraisalButton.vue'
import AppraisalDialog from './AppraisalDialog.vue'
import AppraisalSummary from './AppraisalSummary.vue'
import { study } from './results.setup'

const asked: AskedAspect[] = [
  {
    aspect: 'accuracy',
    domains: [
      { domain: 'index_test', concern: true, questions: ['test_read_blind', 'criterion_fixed'] },
      { domain: 'flow_timing', concern: false, questions: ['same_standard'] },
    ],
  },
]
const appraised = (risk: 'low' | 'unclear' | 'high', version = 4): AppraisalView => ({
  aspect: 'accuracy',
  version,
  sample: false,
  overall: null,
  domains: {
    index_test: { answers: { test_read_blind: 'no' }, risk, concern: null, reason: 'After the scan.' },
  } as never,
})

async function dialog(appraisals: AppraisalView[], save: (one: Asked) => unknown, left: unknown = null) {
  enter(['read', 'write_studies'])
  const sent = serve({
    'GET /appraisals': asked,
    'POST /appraisals/accuracy': { index_test: 'high' },
    'PUT /studies/s/appraisals/accuracy': save,
    'GET /unsaved/accuracy-appraisal/s': () => left,
  })
  const { wrapper } = await mounted(AppraisalDialog, {
    study: { ...study, appraisals },
    aspect: 'accuracy',
    open: false,
  })
  await wrapper.setProps({ open: true })
  const find = <T extends HTMLElement>(css: string) => document.querySelector<T>(css)!
  await eventually(() => expect(find('[data-test=index_test]')).not.toBeNull())
  const choose = async (line: string, value: string) => {
    find<HTMLInputElement>(`[data-test=${line}] input[value=${value}]`).click()
    await flushPromises()
  }
  const submit = async () => {
    find('[data-test=save-appraisal]')
      .closest('form')
      ?.dispatchEvent(new Event('submit', { cancelable: true }))
    await flushPromises()
  }
  const puts = () => sent.filter((one) => one.method === 'PUT')
  return { wrapper, find, choose, submit, puts }
}

describe('appraising a study', () => {
  beforeEach(() => (document.body.innerHTML = ''))

  it('says what the answers suggest, and what must be explained', async () => {
    let refused = true
    const fault = {
      field: 'domains.index_test.reason',
      code: 'missing' as const,
      value: '',
      message: 'A high risk is not explained.',
      remedy: 'Say why.',
    }
    const { wrapper, find, choose, submit, puts } = await dialog([], () =>
      refused ? problem(422, 'fields_invalid', [fault]) : appraised('high', 1),
    )
    expect(find('[data-test=flow_timing-concern]'), 'flow and timing do not apply more or less').toBeNull()
    await choose('test_read_blind', 'no')
    await eventually(() =>
      expect(find('[data-test=index_test-risk]').textContent).toContain('The answers suggest: high'),
    )
    await choose('index_test-risk', 'high')
    await submit()
    expect(find('[data-test=index_test-reason]').textContent).toContain('not explained. Say why.')
    const reason = find<HTMLTextAreaElement>('[data-test=index_test-reason] textarea')
    reason.value = 'After the scan.'
    reason.dispatchEvent(new Event('input', { bubbles: true }))
    refused = false
    await submit()
    expect(puts().at(-1)?.headers.get('If-Match')).toBe('"0"')
    expect(puts().at(-1)?.body).toEqual({
      domains: {
        index_test: {
          answers: { test_read_blind: 'no' },
          risk: 'high',
          concern: null,
          reason: 'After the scan.',
        },
      },
    })
    expect(wrapper.emitted('update:open')?.at(-1)).toEqual([false])
  })

  it('begins with what was judged, and gives it back when the save is undone', async () => {
    const { find, choose, submit, puts } = await dialog([appraised('high')], () => appraised('low', 5))
    expect(find<HTMLInputElement>('[data-test=index_test-risk] input[value=high]').checked).toBe(true)
    await choose('index_test-risk', 'low')
    await submit()
    expect(puts()[0]?.headers.get('If-Match')).toBe('"4"')
    await eventually(() => expect(undoBar.message).toBe('Appraisal saved.'))
    await undoBar.action?.()
    expect(puts()[1]?.headers.get('If-Match')).toBe('"5"')
    expect(puts()[1]?.body).toEqual({ domains: appraised('high').domains })
  })

  it('goes on with a judgement that was left, from the version it began with', async () => {
    const left = { version: 3, content: appraised('low').domains, at: '2026-11-24T10:00:00Z' }
    const { find, submit, puts } = await dialog([appraised('high')], () => appraised('low', 5), left)
    expect(find('[data-test=appraisal-resumed]').textContent).toContain('was restored')
    expect(find<HTMLInputElement>('[data-test=index_test-risk] input[value=low]').checked).toBe(true)
    await submit()
    expect(puts()[0]?.headers.get('If-Match'), 'who saved meanwhile is not overwritten').toBe('"3"')
  })

  it('tells who was slower and keeps the judgement', async () => {
    const { find, choose, submit } = await dialog([], () => problem(412, 'changed_meanwhile'))
    await choose('index_test-risk', 'low')
    await submit()
    expect(find('.failure').textContent).toContain('Somebody else saved an appraisal of this study meanwhile')
    expect(find<HTMLInputElement>('[data-test=index_test-risk] input[value=low]').checked).toBe(true)
  })
})

describe('the posts and the summary of appraisals', () => {
  it('say in words what they show', async () => {
    serve({ 'GET /appraisals': asked })
    const props = { aspect: 'accuracy', label: 'Quellan 2019' }
    const high = { ...study, appraisals: [appraised('high')] }
    const { wrapper } = await mounted(AppraisalButton, { ...props, study: high, editable: true })
    await eventually(() => expect(wrapper.find('svg').exists()).toBe(true))
    expect(wrapper.get('svg').attributes('aria-label')).toBe(
      'Index test: high risk of bias; Flow and timing: not judged',
    )
    expect(wrapper.get('button').attributes('aria-label')).toBe('Appraise: Quellan 2019')
    const { wrapper: reading } = await mounted(AppraisalButton, { ...props, study: high, editable: false })
    await eventually(() => expect(reading.find('svg').exists()).toBe(true))
    expect(reading.find('button').exists()).toBe(false)

    const studies = [high, { ...study, id: 't', appraisals: [appraised('low')] }, high, { ...study, id: 'u' }]
    const { wrapper: summary } = await mounted(AppraisalSummary, { aspect: 'accuracy', studies })
    await eventually(() => expect(summary.findAll('tbody tr')).toHaveLength(2))
    const [test, flow] = summary.findAll('tbody tr').map((row) => row.text())
    expect(test, 'a study counts once').toMatch(/1 of 3: low risk.*1 of 3: high risk.*1 of 3: not judged/s)
    expect(flow).toContain('3 of 3: not judged')
  })
})
