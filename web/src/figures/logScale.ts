import { scaleLog } from 'd3-scale'

import type { RatioEstimate } from '@/shared/api/types'
import { finite } from '@/shared/format'

const TICKS = [0.02, 0.05, 0.1, 0.2, 0.5, 1, 2, 5, 10, 20, 50]
/** Beyond these an interval is cut with an arrow: a ratio of 50 and one of 500 lead to the same decision. */
const WIDEST = [0.02, 50] as const
const NARROWEST = [0.1, 10] as const

/** One axis for all rows: wide enough for the intervals shown, never wider than is legible. */
export function ladderScale(intervals: RatioEstimate[], width: number) {
  const bounds = intervals.flatMap(({ estimate, lower, upper }) => [lower, upper, estimate].map(finite))
  const usable = bounds.filter((value) => value > 0 && value < Infinity)
  const low = Math.max(WIDEST[0], Math.min(NARROWEST[0], ...usable.map((value) => value * 0.85)))
  const high = Math.min(WIDEST[1], Math.max(NARROWEST[1], ...usable.map((value) => value * 1.15)))
  const scale = scaleLog()
    .domain([low, high])
    .range([LABEL_ROOM, width - LABEL_ROOM])
    .clamp(true)
  return { scale, ticks: TICKS.filter((tick) => tick >= low && tick <= high), low, high }
}

/** Room at both ends for a bar's number. */
export const LABEL_ROOM = 40

export type LadderScale = ReturnType<typeof ladderScale>
