import { describe, expect, it } from 'vitest'

import type { AgreementView } from '@/shared/api/types'
import { enter, eventually, mounted, problem, serve } from '@/shared/mount.setup'
import { undoBar } from '@/shared/undo'
import { answer, stored } from './results.setup'
import AgreementSection from './AgreementSection.vue'

async function section(agreements: unknown) {
  const asked = serve({
    'GET /tests/a/agreements': () => agreements,
    'DELETE /agreements/g': { ...stored, version: 4 },
    'POST /agreements/g/restore': { ...stored, version: 5 },
    'GET /references': { total: 0, references: [] },
  })
  const { wrapper } = await mounted(AgreementSection, { testId: 'a' })
  return { asked, wrapper }
}
const measured: AgreementView = {
  ...stored,
  id: 'm',
  sample: false,
  between: 'examiners',
  figures: { kind: 'measurements', rows: [], unit: 'mm' },
  answer: {
    ...answer,
    raters: 3,
    subjects: 10,
    headline: {
      measure: 'icc_agreement',
      estimate: { estimate: 0.998, lower: -0.1, upper: 1 },
      size: { word: 'excellent', scheme: 'koo_li2016' },
    },
    detail: {
      kind: 'measured',
      icc: [
        { form: 'agreement_single', value: { estimate: 0.998, lower: -0.1, upper: 1 } },
        { form: 'agreement_average', value: null },
      ],
      repeatability: {
        sem_agreement: 0.5123,
        sem_consistency: 0.4,
        mdc_agreement: 1.42,
        mdc_consistency: 1.1,
      },
      bland_altman: null,
    },
  },
}

describe('the agreement results of a sheet', () => {
  it('show each coefficient with its interval, word and people, and all figures when asked for', async () => {
    enter()
    const { wrapper } = await section([stored, measured])
    const [table, icc] = wrapper.findAll('[data-test=agreement-row]').map((row) => row.text())
    expect(table).toMatch(/0\.70\s*\(0\.56–0\.84\)\s*Cohen’s kappa,\s*substantial/)
    expect(table).toContain('one examiner, 2 occasions, 100 people')
    expect(table).toContain('sample data')
    expect(icc).toMatch(/>.0\.99\s*\(−0\.10 to 1\.00\)\s*ICC\(2,1\),\s*excellent/)
    expect(icc).toMatch(/ICC\(2,k\): of the raters’ mean\s*cannot be estimated/)
    expect(icc).toMatch(/Standard error of measurement \(SEM\)\s*0\.512 mm/)
    expect(icc).not.toContain('sample data')
  })

  it('say what kappa alone would hide, and what cannot be estimated', async () => {
    enter()
    const notes: AgreementView['answer']['notes'] = [{ code: 'kappa_paradox', prevalence_index: -0.88 }]
    const constant: AgreementView = {
      ...measured,
      answer: { ...measured.answer, headline: null, notes: [{ code: 'no_variation' }] },
    }
    const { wrapper } = await section([{ ...stored, answer: { ...answer, notes } }, constant])
    const [rare, same] = wrapper.findAll('[data-test=agreement-row]').map((row) => row.text())
    expect(rare).toContain('One category is so common (prevalence index 0.88)')
    expect(same).toContain('cannot be estimated')
    expect(same).toContain('The ratings do not vary')
  })

  it('are taken out and brought back by those who may, and only read by others', async () => {
    enter(['read', 'write_studies'])
    const { asked, wrapper } = await section([stored])
    await wrapper.find('[data-test=remove-agreement]').trigger('click')
    await eventually(() => expect(undoBar.message).toBe('Deleted: Sample report'))
    await undoBar.action?.()
    const changes = asked.filter((one) => one.method !== 'GET')
    expect(changes.map((one) => [one.method, one.path, one.headers.get('If-Match')])).toEqual([
      ['DELETE', '/agreements/g', '"3"'],
      ['POST', '/agreements/g/restore', '"4"'],
    ])
    enter(['read'])
    const { wrapper: reading } = await section([stored])
    expect(reading.findAll('[data-test=remove-agreement], [data-test=add-agreement]')).toHaveLength(0)
  })

  it('are unknown, not zero, when there are none, and can be asked for again when they do not come', async () => {
    enter()
    const { wrapper } = await section([])
    expect(wrapper.text()).toContain('Unknown agreement does not mean good agreement')
    let answered: unknown = problem(503, 'database_unavailable')
    const asked = serve({ 'GET /tests/a/agreements': () => answered })
    const { wrapper: failing } = await mounted(AgreementSection, { testId: 'a' })
    await eventually(() => expect(failing.text()).toContain('could not be loaded'))
    answered = [stored]
    await failing.find('.notice button').trigger('click')
    await eventually(() => expect(failing.findAll('[data-test=agreement-row]')).toHaveLength(1))
    expect(asked.length).toBeGreaterThan(1)
  })
})
