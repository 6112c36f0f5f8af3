import { mount } from '@vue/test-utils'
import { describe, expect, it } from 'vitest'

import type { RocSpace } from '@/shared/api/types'
import RocPlot, { type RocStudy } from './RocPlot.vue'

const point = (sensitivity: number, specificity: number) => ({ sensitivity, specificity })
const study = (id: string, diseased: number, people: number, level: number | null = null): RocStudy => ({
  id,
  label: `Report ${id}`,
  point: point(0.8, 0.9),
  diseased,
  people,
  level,
})
const region = { semi_axes: [1, 1], angle: 0, outline: [point(0.9, 0.8), point(0.7, 0.9), point(0.8, 0.7)] }
const roc = {
  summary: point(0.75, 0.85),
  confidence: region,
  prediction: region,
  hsroc: null,
  curve: [],
} as unknown as RocSpace

function plot(studies: RocStudy[], more: Record<string, unknown> = {}) {
  return mount(RocPlot, {
    props: { studies, roc: null, levels: [], marked: '', said: 'Two studies', ...more },
  })
}

describe('the plot in ROC space', () => {
  it('places what is better up and to the left', () => {
    const at = (wrapper: ReturnType<typeof plot>) =>
      /translate\(([\d.]+) ([\d.]+)\)/
        .exec(wrapper.get('.study').attributes('transform')!)!
        .slice(1)
        .map(Number)
    const good = at(plot([{ ...study('a', 5, 10), point: point(0.95, 0.95) }])) as [number, number]
    const poor = at(plot([{ ...study('a', 5, 10), point: point(0.5, 0.5) }])) as [number, number]
    expect(good[0]).toBeLessThan(poor[0])
    expect(good[1]).toBeLessThan(poor[1])
  })

  it('draws the area by the people and fills it by the share that has the condition', () => {
    const wrapper = plot([study('a', 0, 100), study('b', 100, 100), study('c', 5, 25)])
    const [none, all, small] = wrapper.findAll('.share').map((it) => Number(it.attributes('height')))
    const r = 12
    expect([none, all]).toEqual([r, 3 * r])
    expect(small, 'a quarter of the people is half as wide, beside the smallest mark').toBeCloseTo(
      8 * 2 * 0.2 + 8,
    )
    const tops = wrapper.findAll('.share').map((it) => Number(it.attributes('y')))
    expect(tops[0], 'nothing of the mark is filled').toBe(r)
    expect(tops[1], 'all of it is').toBe(-r)
  })

  it('gives every value its own shape, and says what is marked', async () => {
    const levels = [0, 1, 2, 3, 4, 5]
    const wrapper = plot(levels.map((level) => study(String(level), 5, 10, level)))
    const shapes = wrapper.findAll('.edge').map((it) => it.attributes('d'))
    expect(new Set(shapes).size).toBe(6)
    await wrapper.get('.study:nth-of-type(4)').trigger('mouseenter')
    expect(wrapper.emitted('mark')?.[0]).toEqual(['2'])
    await wrapper.setProps({ marked: '2' })
    expect(wrapper.findAll('.study.marked').map((it) => it.get('title').text())).toEqual(['Report 2'])
    await wrapper.get('.study.marked').trigger('mouseleave')
    expect(wrapper.emitted('mark')?.at(-1)).toEqual([''])
  })

  it('draws regions closed, the curve only where there is one, and one summary each', () => {
    const alone = plot([study('a', 5, 10)], { roc })
    expect(alone.get('.confidence').attributes('d')).toMatch(/^M[\d.]+ [\d.]+(L[\d.]+ [\d.]+){2}Z$/)
    expect(alone.find('.curve').exists()).toBe(false)
    expect(alone.findAll('.summary:not(.halo)')).toHaveLength(1)
    const curve = [point(0.6, 0.9), point(0.8, 0.7)]
    expect(
      plot([], { roc: { ...roc, curve } })
        .get('.curve')
        .attributes('d'),
    ).not.toContain('Z')
    const levels = [{ point: point(0.7, 0.8), level: 0 }, null, { point: point(0.6, 0.9), level: 2 }]
    const compared = plot([], { levels })
    expect(compared.findAll('.summary:not(.halo)')).toHaveLength(2)
    expect(compared.get('svg').attributes('aria-label')).toBe('Two studies')
  })

  it('draws a study without anybody as the smallest mark', () => {
    const wrapper = plot([study('a', 0, 0), study('b', 5, 10)])
    expect(wrapper.html()).not.toContain('NaN')
  })
})
