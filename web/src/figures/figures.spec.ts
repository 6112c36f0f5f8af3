import { mount } from '@vue/test-utils'
import { describe, expect, it } from 'vitest'

import type { RatioEstimate } from '@/shared/api/types'
import BenefitCurve from './BenefitCurve.vue'
import CrowdPicture from './CrowdPicture.vue'
import LadderRung from './LadderRung.vue'
import { ladderScale } from './logScale'
import ProbabilityAxis from './ProbabilityAxis.vue'
import ProbabilityHandle from './ProbabilityHandle.vue'
import ProbabilityRow from './ProbabilityRow.vue'
import { probabilityScale } from './probabilityScale'

const share = (estimate: number, lower: number, upper: number) => ({ estimate, lower, upper })
const number = (found: { attributes: (name: string) => string | undefined }, name: string) =>
  Number(found.attributes(name))

describe('a row of the walk over probabilities', () => {
  const scale = probabilityScale(600)
  const row = (props: object) =>
    mount(ProbabilityRow, { props: { scale, kind: 'positive', ...props } as never }).get(
      '.positive, .negative',
    )

  it('goes from where it starts to where it leads, as wide as it is unsure', () => {
    const drawn = row({ from: 0.3, to: share(0.63, 0.46, 0.77) })
    const [way, interval] = [drawn.get('.way'), drawn.get('.interval')]
    expect([number(way, 'x1'), number(way, 'x2')]).toEqual([scale.at(0.3), scale.at(0.63)])
    expect(number(interval, 'x')).toBe(scale.at(0.46))
    expect(number(interval, 'width')).toBeCloseTo(scale.at(0.77) - scale.at(0.46), 6)
    expect(number(interval, 'rx'), 'round ends').toBe(7)
    const square = row({ kind: 'negative', from: 0.3, to: share(0.3, 0.2, 0.4) })
    expect(number(square.get('.interval'), 'rx')).toBe(1)
    expect(square.find('.head').exists(), 'what goes nowhere has no arrow').toBe(false)
  })

  it('does not draw an empty cell as certainty', () => {
    const drawn = row({ from: 0.35, to: share(1, 0.58, 1) })
    expect(number(drawn.get('.point'), 'x1')).toBe(scale.at(0.58))
    expect(number(drawn.get('.interval'), 'x') + number(drawn.get('.interval'), 'width')).toBe(scale.at(1))
  })

  it('names what is done on either side, where there is room', () => {
    const words = (reassure: number, act: number) =>
      mount(ProbabilityAxis, { props: { scale, thresholds: { reassure, act } } })
        .findAll('.zone')
        .map((label) => label.text())
    expect(words(0.08, 0.75)).toEqual(['reassure', 'test further', 'treat or refer'])
    expect(words(0.3, 0.31), 'none between thresholds that nearly touch').toEqual([
      'reassure',
      'treat or refer',
    ])
  })

  it('is moved by the hand as far as the axis goes', async () => {
    const moved: number[] = []
    const handle = mount(
      { components: { ProbabilityHandle }, template: '<svg><ProbabilityHandle v-bind="$attrs" /></svg>' },
      {
        attrs: { scale, modelValue: 0.3, 'onUpdate:modelValue': (to: number) => moved.push(to) },
        attachTo: document.body,
      },
    )
    const slider = handle.get('[role=slider]')
    handle.get('svg').element.getBoundingClientRect = () => ({ left: 100, width: 600 }) as DOMRect
    slider.element.setPointerCapture = () => undefined
    const at = (x: number) => ({ clientX: 100 + x, pointerId: 1 })
    await slider.trigger('pointermove', at(300))
    expect(moved, 'only while it is held').toEqual([])
    await slider.trigger('pointerdown', at(scale.at(0.5)))
    await slider.trigger('pointermove', at(-50))
    await slider.trigger('pointerup')
    await slider.trigger('pointermove', at(300))
    expect(moved).toEqual([0.5, 0.002])
  })
})

describe('a rung of the ladder', () => {
  it('cuts what is beyond the axis, and draws the next study’s range with ends where they are', () => {
    const lr = (estimate: number, lower: number, upper: number | 'infinity'): RatioEstimate => ({
      estimate,
      lower,
      upper,
    })
    const [plus, minus] = [lr(4, 2, 'infinity'), lr(0.3, 0.1, 0.6)]
    const ahead = { positive: lr(4, 0.5, 400), negative: lr(0.3, 0.06, 1.4) }
    const axis = ladderScale([plus, minus, ahead.positive, ahead.negative], 500)
    const rung = mount(LadderRung, {
      props: {
        axis,
        width: 500,
        name: 'Thumb lift',
        evidence: 'several_studies',
        positive: plus,
        negative: minus,
        aheadPositive: ahead.positive,
        aheadNegative: ahead.negative,
      },
    })
    expect(rung.findAll('.cut'), 'one bound is beyond the axis').toHaveLength(1)
    const lines = rung.findAll('[data-test=ahead]').map((line) => line.findAll('line').length)
    expect(lines, 'a line with one end, a line with both').toEqual([2, 3])
    expect(rung.attributes('aria-label')).toBe(
      'Thumb lift: negative likelihood ratio 0.30 (0.10–0.60), positive likelihood ratio 4.0 (2.0–∞)',
    )
  })
})

describe('pictures of what acting is worth', () => {
  it('end where acting on everybody falls far below nothing', () => {
    const curve = [0.1, 0.3, 0.5, 0.9].map((threshold) => ({
      threshold,
      by_test: 0.24 - 0.1 * threshold,
      treat_all: 0.3 - 2 * threshold,
      interval: [0.1 - 0.1 * threshold, 0.31] as [number, number],
    }))
    const drawn = mount(BenefitCurve, {
      props: { curve, thresholds: { reassure: 0.1, act: 0.6 }, said: 'Worth' },
    })
    const points = (css: string) => drawn.get(css).attributes('d')!.match(/[ML]/g)!.length
    expect([points('.test'), points('.all')]).toEqual([4, 1])
    expect(points('.band'), 'there and back').toBe(8)
    expect(drawn.findAll('.threshold')).toHaveLength(2)
    expect(drawn.text()).not.toContain('NaN')
  })

  it('count people in words of their own', () => {
    const frequencies = {
      population: 1000,
      with_condition: 0,
      true_positive: 0,
      false_negative: 0,
      without_condition: 1000,
      false_positive: 20,
      true_negative: 980,
    }
    const groups = { true_positive: 'A', false_negative: 'B', false_positive: 'C', true_negative: 'D' }
    const words = { groups, positive: (n: number) => `${n} so`, negative: (n: number) => `${n} otherwise` }
    const picture = mount(CrowdPicture, { props: { frequencies, words } })
    expect(picture.findAll('.legend li').map((line) => line.text())).toEqual(['0 A', '0 B', '20 C', '980 D'])
    expect(picture.text()).toMatch(/20 so\s*;\s*980 otherwise/)
    expect(picture.html()).not.toContain('NaN')
  })
})
