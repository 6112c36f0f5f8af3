import { scaleLinear } from 'd3-scale'

/** Ends of the axis; beyond them a probability is drawn at the end. */
const ENDS = [0.002, 0.998] as const
/** Those that fit without touching each other. */
const TICKS = [
  0.002, 0.005, 0.01, 0.02, 0.05, 0.1, 0.2, 0.3, 0.5, 0.7, 0.8, 0.9, 0.95, 0.98, 0.99, 0.995, 0.998,
]
const TICK_ROOM = 30
const EDGE = 16

const logit = (p: number) => Math.log(p / (1 - p))

/** Probabilities by the logarithm of their odds, where a likelihood ratio is the same length wherever it starts. */
export function probabilityScale(width: number) {
  const scale = scaleLinear()
    .domain(ENDS.map(logit))
    .range([EDGE, width - EDGE])
    .clamp(true)
  const at = (p: number) => scale(logit(Math.min(Math.max(p, ENDS[0]), ENDS[1])))
  const ticks: number[] = []
  for (const tick of [0.5, ...TICKS]) {
    if (ticks.every((other) => Math.abs(at(other) - at(tick)) >= TICK_ROOM)) ticks.push(tick)
  }
  return {
    at,
    width,
    ticks: ticks.sort((a, b) => a - b),
    /** The probability at a place, in steps that a hand can set. */
    probability: (x: number) => settled(1 / (1 + Math.exp(-scale.invert(x)))),
  }
}
export type ProbabilityScale = ReturnType<typeof probabilityScale>

/** In steps of 1 %, finer towards both ends. */
export function settled(p: number): number {
  const edge = Math.min(p, 1 - p)
  const step = edge < 0.02 ? 0.001 : edge < 0.1 ? 0.005 : 0.01
  return Math.min(0.999, Math.max(0.001, Math.round(p / step) * step))
}
