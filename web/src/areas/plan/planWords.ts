import { positions } from '@/areas/catalogue/sheetWords'
import type { PlanDraft } from './planDraft'
import type { FitReason, PlaceReason, PlanOrderAnswer } from '@/shared/api/types'
import { text } from '@/shared/text'

const words = text.plan
/** Costs closer than this are one. */
const SAME = 1e-9

type Part = 'one_attempt' | 'irritating_late' | 'informative_early'
const PARTS: Part[] = ['one_attempt', 'irritating_late', 'informative_early']

/** Why a test stands where it stands; `name` is that of a test by its place. */
export function reasonWords(reasons: PlaceReason[], name: (place: number) => string): string[] {
  return reasons.map((reason) => {
    if (reason.code === 'before') return words.reasons.before(name(reason.test))
    if (reason.code === 'after') return words.reasons.after(name(reason.test))
    return words.reasons[reason.code]
  })
}

/** Whether no order serves the wishes better than the present one, as far as is known. */
export const isProposed = ({ own, proposed }: PlanOrderAnswer) =>
  !own.broken.length && own.cost.total <= proposed.cost.total + SAME

/** What the present order does otherwise than the proposed one: worse first, then what it gains. */
export function costWords({ own, proposed }: PlanOrderAnswer): string[] {
  const [mine, best] = [own.cost, proposed.cost]
  const turning = mine.changes === best.changes ? [] : [words.cost.turning(mine.changes, best.changes)]
  const worse = PARTS.filter((part) => mine[part] > best[part] + SAME)
  const better = PARTS.filter((part) => mine[part] < best[part] - SAME)
  const dearer = mine.changes > best.changes
  return [
    ...(dearer ? turning : []),
    ...worse.map((part) => words.cost.worse[part]),
    ...(dearer ? [] : turning),
    ...better.map((part) => words.cost.better[part]),
  ]
}

/** For whom a plan is, as far as studies say it of their people too. */
export function such({ setting, course, state }: Pick<PlanDraft, 'setting' | 'course' | 'state'>): string[] {
  const { choices } = text.setup
  return [
    setting && choices.setting.words[setting],
    course && choices.course.words[course],
    state && choices.state.words[state],
  ].filter((it) => !!it) as string[]
}

/** How soon; nothing where nobody said. */
export const deadline = (hours: number | null | undefined) => (hours == null ? '' : words.fit.within(hours))

/** Why a test is not simply done. */
export function fitWords(reasons: FitReason[]): string[] {
  const said = words.fit
  return reasons.map((reason) => {
    switch (reason.code) {
      case 'caution':
        return [reason.caution, reason.instead, deadline(reason.within_hours)].filter(Boolean).join(' ')
      case 'open':
        return said.question(reason.question)
      case 'position':
        return said.position(positions[reason.position])
      case 'equipment':
        return said.equipment(reason.name)
      case 'irritation':
        return said.irritation
      default:
        return said.time
    }
  })
}
