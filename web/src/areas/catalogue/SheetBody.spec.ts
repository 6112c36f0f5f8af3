import { flushPromises } from '@vue/test-utils'
import { beforeEach, describe, expect, it, vi } from 'vitest'

import type { TestView } from '@/shared/api/types'
import { mounted } from '@/shared/mount.setup'
import { blankSheet } from './sheetDraft'
import { blank, sheetFields } from './sheetFields'
import SheetBody from './SheetBody.vue'

const field = sheetFields.find((it) => it.key === 'variants')
const fields = field?.kind === 'list' ? field.fields : []
const part = (key: string, entry: object) => {
  const list = fields.find((it) => it.key === key)
  return { ...(list?.kind === 'list' ? blank(list.fields) : {}), ...entry }
}
const variant = (name: string, more: object) => ({ ...blank(fields), name, ...more })

async function body(sheet: object) {
  const whole = {
    ...blankSheet('hand_wrist', 'Weakness'),
    name: 'Thumb lift',
    positive_finding: 'Weaker',
    ...sheet,
  }
  const { wrapper } = await mounted(SheetBody, { sheet: whole as unknown as TestView })
  return wrapper
}

describe('the page of a sheet', () => {
  beforeEach(() => (document.body.innerHTML = ''))

  it('says that no caution is written instead of showing none', async () => {
    const page = await body({})
    expect(page.get('.cautions').text()).toContain('That does not mean that there is none.')
    expect(page.find('.urgent').exists()).toBe(false)
    expect(page.text()).toContain('Nothing written yet.')
  })

  it('puts urgent findings before cautions, and cautions with what to ask and to do', async () => {
    const page = await body({
      urgent: [{ finding: 'Wasted muscle', action: 'Refer.' }],
      cautions: [
        { kind: 'contraindication', text: 'Fracture', screening: '“Broken?”', instead: 'Look only.' },
        { kind: 'stop_rule', text: 'Sharp pain', screening: '', instead: 'Let go.' },
      ],
    })
    const text = page.text()
    expect(text.indexOf('Wasted muscle')).toBeLessThan(text.indexOf('Fracture'))
    expect(page.get('.cautions').text()).toMatch(
      /Do not do it: Fracture\s*Ask or look: “Broken\?”\s*Instead:\s*Look only\./,
    )
    expect(page.get('.cautions').text()).toMatch(/Stop at once: Sharp pain\s*Then:\s*Let go\./)
  })

  it('shows the baseline first, another way when chosen, and only what differs when compared', async () => {
    const page = await body({
      variants: [
        variant('Gravity', {
          patient_position: 'Sitting',
          joints: [part('joints', { joint: 'wrist', motion: 'flexion', from: 60, to: 90 })],
          steps: [part('steps', { text: 'Let it drop', hold_seconds: 60, degrees: 80 })],
          targets: [part('targets', { structure: 'Median nerve', role: 'compressed', phase: 'Hold' })],
          criteria: [
            part('criteria', { outcome: 'positive', kind: 'familiar_pain', text: 'Tingling' }),
            part('criteria', { outcome: 'not_interpretable', kind: 'sign', text: 'Stiff' }),
          ],
        }),
        variant('Pushed', {
          patient_position: 'Sitting',
          difference: 'The examiner pushes.',
          steps: [part('steps', { text: 'Push', optional: true })],
        }),
      ],
    })
    expect(page.text()).toContain('Let it drop (hold 60 s, 80°)')
    expect(page.text()).toContain('wrist flexion 60 to 90°')
    expect(page.text()).toMatch(/Positive\s*Tingling the familiar pain/)
    expect(page.text()).toMatch(/Not interpretable\s*Stiff\s/)
    expect(page.text()).toMatch(/Median nerve\s*compressed\s*, Hold/)
    await page.findAll('.choice button')[1]?.trigger('click')
    expect(page.text()).toContain('The examiner pushes.')
    expect(page.text()).toContain('Push (may be unpleasant: optional step)')
    await vi.dynamicImportSettled()
    await flushPromises()
    await page.get('[data-test=compare]').trigger('click')
    const rows = page.findAll('[data-test=comparison] tbody tr').map((row) => row.get('th').text())
    expect(rows).toEqual([
      'Joint positions',
      'Steps, in order',
      'Structures loaded',
      'Criteria: positive, negative, equivocal, not interpretable',
    ])
  })

  it('writes norms, burden and retest in words', async () => {
    const page = await body({
      burden: { irritation: 1, tries: 1, minutes: 3, hands: 2 },
      norms: [
        {
          measure: 'Turn',
          sex: 'female',
          age_from: 20,
          age_to: 50,
          low: 65,
          high: 85,
          unit: 'deg',
          source: 'Made up',
        },
        {
          measure: 'Ratio',
          sex: null,
          age_from: null,
          age_to: null,
          low: null,
          high: 0.7,
          unit: '',
          source: '',
        },
      ],
      retest: { detectable_change: 10, unit: 'deg', source: '', keep_same: 'Same chair.' },
    })
    expect(page.text()).toContain('a little irritating · one valid attempt · 3 min · 2 hands')
    expect(page.text()).toMatch(/Turn, women, age 20 to 50: 65 to 85 deg/)
    expect(page.text()).toMatch(/Ratio: … to 0.7/)
    expect(page.text()).toMatch(
      /Minimal detectable change: 10 deg\. A smaller difference may be measurement error\.\s*Keep the same: Same chair\./,
    )
  })
})
