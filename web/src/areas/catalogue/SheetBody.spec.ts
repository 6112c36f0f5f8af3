import { flushPromises } from '@vue/test-utils'
import { beforeEach, describe, expect, it, vi } from 'vitest'

import type { TestView } from '@/shared/api/types'
import { mounted } from '@/shared/mount.setup'
import { blankSheet } from './sheetDraft'
import { sheetFields } from './sheetFields'
import { blank } from './sheetValues'
import SheetBody from './SheetBody.vue'

const field = sheetFields.find((it) => it.key === 'variants')
const fields = field?.kind === 'list' ? field.fields : []
const part = (key: string, entry: object) => {
  const list = fields.find((it) => it.key === key)
  return { ...(list?.kind === 'list' ? blank(list.fields) : {}), ...entry }
}
const variant = (name: string, more: object) => ({ ...blank(fields), name, ...more })

const listed = (key: string, entry: object) => {
  const list = sheetFields.find((it) => it.key === key)
  return { ...(list?.kind === 'list' ? blank(list.fields) : {}), ...entry }
}

async function body(sheet: object) {
  const whole = {
    ...blankSheet('hand_wrist', 'Weakness'),
    name: 'Thumb lift',
    positive_finding: 'Weaker',
    derived: { steps: [], pitfalls: [] },
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
        listed('cautions', {
          kind: 'contraindication',
          text: 'Fracture',
          screening: '“Broken?”',
          instead: 'Look only.',
        }),
        listed('cautions', { kind: 'stop_rule', text: 'Sharp pain', instead: 'Let go.' }),
        listed('cautions', {
          text: 'Bladder trouble',
          screening: '“Any trouble?”',
          unsafe_answers: ['yes', 'unknown'],
          scope: 'examination',
          instead: 'Refer',
          within_hours: 0,
        }),
        listed('cautions', { text: 'Loose joint', scope: 'joint', joint: 'wrist', variant: 'Pushed' }),
        listed('cautions', { text: 'Cold hand', within_hours: 6 }),
      ],
    })
    const text = page.text()
    expect(text.indexOf('Wasted muscle')).toBeLessThan(text.indexOf('Fracture'))
    expect(page.get('.cautions').text()).toMatch(
      /Do not do it: Fracture\s*Ask or look: “Broken\?”\s*Instead:\s*Look only\./,
    )
    expect(page.get('.cautions').text()).toMatch(/Stop at once: Sharp pain\s*Then:\s*Let go\./)
    expect(page.get('.cautions').text()).toMatch(
      /Unsafe answer: yes or not known\s*Then:\s*Refer at once\s*Holds for: the whole examination \(red flag\)/,
    )
    expect(page.get('.cautions').text()).toMatch(
      /Holds for: tests that load the wrist; only the variant “Pushed”/,
    )
    expect(page.get('.cautions').text()).toMatch(/Cold hand\s*Then:\s*within 6 hours/)
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

  it('says how patient and examiner touch, what ends a step, and what a finding and an inability mean', async () => {
    const page = await body({
      variants: [
        variant('Pushed', {
          stance: {
            sides: 'both_at_once',
            moved: 'both',
            read: 'tested',
            one_leg: true,
            fall_support: 'Couch',
          },
          contacts: [
            part('contacts', {
              with: 'trunk',
              placement: 'On the knee.',
              tasks: ['move', 'palpate'],
              locks: 'hip',
              verified: 'It stays.',
            }),
            part('contacts', { placement: 'Back of the hand.', forbidden: true, effect: 'Adds pressure.' }),
          ],
          equipment: [part('equipment', { name: 'Roll', reason: 'keeps the wrist bent' })],
          preparation: { hand_hygiene: true, permission: '“May I?”', sensation: '', question: '“What?”' },
          steps: [
            part('steps', {
              text: 'Hold',
              until: 'segment_moves',
              until_detail: 'shoulder blade',
              reads: ['angle', 'end_feel'],
            }),
          ],
          criteria: [
            part('criteria', {
              outcome: 'positive',
              text: 'Click',
              part_of_range: 'last_third',
              displacement: 'goes_back',
              attempts: 3,
            }),
          ],
          grading: {
            name: 'Opening',
            unit: 'mm',
            levels: [
              { name: 'none', outcome: 'negative', from: 0, to: 3 },
              { name: 'wide', outcome: 'positive', from: 3, to: null },
            ],
          },
          inability: [{ reason: 'fear', outcome: 'not_interpretable', note: '' }],
        }),
      ],
      pitfalls: [listed('pitfalls', { text: 'Effusion', patient_side: true })],
      derived: {
        steps: [[{ push: 'adduction', effort: 'abduction' }]],
        pitfalls: [{ direction: 'towards_negative', follows: true, spoils_negative: true }],
      },
    })
    const text = page.text()
    expect(text).toContain('both sides at once; both sides moved; tested side read; standing on one leg')
    expect(text).toContain(
      'trunk: On the knee (moves or presses, palpates); locks the hip; check of the lock: It stays',
    )
    expect(text).toContain('Back of the hand → Adds pressure.')
    expect(text).toContain('Roll (keeps the wrist bent)')
    expect(text).toMatch(/Hands\s*clean them first\s*Ask permission\s*“May I\?”\s*Ask\s*“What\?”/)
    expect(text).toContain('patient tries abduction, examiner pushes into adduction')
    expect(text).toContain(
      'until: a neighbouring segment moves along (shoulder blade); read: angle, end-feel',
    )
    expect(text).toContain('(last third of the range; goes back (reduction); only after 3 attempts)')
    expect(text).toMatch(/Opening\s*none, 0 to below 3 mm\s*Negative\s*wide, 3 or more mm\s*Positive/)
    expect(text).toContain('fear: not interpretable')
    expect(text).toMatch(/towards negative\s*\(follows from its effect\)/)
    expect(text).toContain('With this, a negative result is not interpretable.')
  })
})
