import type {
  Caution,
  Contact,
  Criterion,
  DerivedStep,
  Inability,
  JointRange,
  Measure,
  Norm,
  ProcedureStep,
  ReadingRow,
  Repeat,
  UrgentReading,
  Variant,
} from '@/shared/api/types'
import { text } from '@/shared/text'
import {
  answers,
  cautionScopes,
  comparisons,
  contactParts,
  contactTasks,
  displacements,
  endFeels,
  inabilityReasons,
  joints,
  motions,
  outcomes,
  rangeParts,
  readAtEvents,
  repeatWhen,
  sexes,
  sides,
  sidesTested,
  stepEvents,
} from './sheetWords'

/** What a sheet's parts say in words; the printed sheet says the same (crates/formats/src/teaching_sheet). */

const words = text.sheet
const joined = (parts: (string | false | null | undefined)[], by = ' ') => parts.filter(Boolean).join(by)
/** Without the full stop at its end: more is said after it. */
const unended = (sentence: string) => sentence.replace(/\.$/, '')
const isNumber = (value: number | null | undefined): value is number => typeof value === 'number'

/** "at once", "within 6 hours", "within 2 days". */
export function deadline(hours: number | null | undefined): string {
  if (!isNumber(hours)) return ''
  if (hours === 0) return words.atOnce
  return hours >= 48 && hours % 24 === 0 ? words.withinDays(hours / 24) : words.withinHours(hours)
}

/** "Refer promptly", with how soon where that is written. */
export function urgentWord(hours: number | null | undefined): string {
  return text.interpretation.urgentWord(deadline(hours))
}

/** What a row of an interpretation table asks of a measure; empty where it asks nothing. */
export function rowCondition(row: ReadingRow, measure: Measure): string {
  return row.conditions
    .filter((condition) => condition.measure === measure.name)
    .map((condition) =>
      condition.choices.length
        ? condition.choices.join(' or ')
        : `${condition.comparison ? comparisons[condition.comparison] : ''} ${condition.value ?? ''} ${measure.unit}`.trim(),
    )
    .join(', ')
}

/** An urgent row as a finding: what is measured, what it means, and what to do. */
export function urgentRow(row: ReadingRow, measures: Measure[]): UrgentReading {
  const asked = measures.flatMap((measure) => {
    const said = rowCondition(row, measure)
    return said ? [`${measure.name} ${said}`] : []
  })
  return {
    finding: [asked.join(', '), row.reading].filter(Boolean).join(': '),
    action: row.next_step,
    within_hours: row.within_hours,
  }
}

export function contactLine(contact: Contact): string {
  const tasks = contact.tasks.map((task) => contactTasks[task]).join(', ')
  const lock = contact.locks ? words.locks(joints[contact.locks]) : ''
  const verified = contact.verified ? words.verified(unended(contact.verified)) : ''
  const place = joined([
    contact.with ? `${contactParts[contact.with]}:` : '',
    unended(contact.placement),
    tasks && `(${tasks})`,
  ])
  return joined([place, lock, verified], '; ')
}

export function jointLine(range: JointRange): string {
  const ends = [...new Set([range.from, range.to].filter(isNumber))]
  return joined([
    range.joint ? joints[range.joint] : '',
    range.motion ? motions[range.motion] : '',
    ends.length ? `${ends.join(' to ')}°` : '',
    range.individual ? words.individual : '',
  ])
}

/** Everything about how patient and examiner are placed, as labels with values; what is not written is left out. */
export function facts(v: Variant): { label: string; value: string }[] {
  const touching = v.contacts.filter((contact) => !contact.forbidden).map(contactLine)
  const forbidden = v.contacts.filter((contact) => contact.forbidden)
  const equipment = v.equipment.map((it) => (it.reason ? `${it.name} (${it.reason})` : it.name))
  const { sides: tested, moved, read, one_leg, fall_support } = v.stance
  const stance = [
    tested ? sidesTested[tested] : '',
    moved ? words.moved(sides[moved]) : '',
    read ? words.read(sides[read]) : '',
    one_leg ? words.oneLeg : '',
  ]
  return [
    { label: words.position, value: v.patient_position },
    { label: words.sides, value: joined(stance, '; ') },
    { label: words.support, value: fall_support },
    { label: words.examiner, value: v.examiner_position },
    { label: words.contacts, value: touching.join('\n') },
    {
      label: words.notTouched,
      value: forbidden.map((it) => `${unended(it.placement)} → ${it.effect}`).join('\n'),
    },
    { label: words.joints, value: v.joints.map(jointLine).join('; ') },
    {
      label: words.relays,
      value: v.relays.map((it) => `${it.joint ? joints[it.joint] : ''}: ${it.check}`).join('\n'),
    },
    { label: words.equipment, value: equipment.join(', ') },
    { label: words.viewpoint, value: v.viewpoint },
  ].filter((fact) => fact.value)
}

/** What comes before the first touch, in the order in which it is done. */
export function before(v: Variant): { label: string; value: string }[] {
  const { hand_hygiene, permission, sensation, question } = v.preparation
  return [
    { label: words.hygiene, value: hand_hygiene ? words.hygieneFirst : '' },
    { label: words.permission, value: permission },
    { label: words.say, value: v.patient_script },
    { label: words.sensation, value: sensation },
    { label: words.show, value: v.demonstration },
    { label: words.question, value: question },
  ].filter((fact) => fact.value)
}

export function measuring(v: Variant): { label: string; value: string }[] {
  const m = v.measuring
  const setup = m.setup.map((it) => joined([it.name, isNumber(it.value) ? String(it.value) : '', it.unit]))
  return [
    { label: words.axis, value: m.axis },
    { label: words.fixedArm, value: m.fixed_arm },
    { label: words.movingArm, value: m.moving_arm },
    { label: words.landmarks, value: m.landmarks },
    { label: words.start, value: m.start },
    { label: words.force, value: isNumber(m.force) ? `${m.force} N` : '' },
    { label: words.setup, value: setup.join('; ') },
  ].filter((fact) => fact.value)
}

/** What is said of a step beside its text. */
export function stepNotes(step: ProcedureStep, forces: DerivedStep | undefined): string[] {
  const angle = isNumber(step.degrees)
    ? `${step.degrees}°${isNumber(step.degrees_to) ? ` to ${step.degrees_to}°` : ''}`
    : ''
  const event = step.until ? stepEvents[step.until] : ''
  const read = step.reads.map((it) => readAtEvents[it]).join(', ')
  return [
    step.phase,
    forces?.effort && forces.push ? words.forces(motions[forces.effort], motions[forces.push]) : '',
    isNumber(step.hold_seconds) ? words.hold(String(step.hold_seconds)) : '',
    isNumber(step.repetitions) ? words.times(String(step.repetitions)) : '',
    angle,
    event ? words.until(joined([event, step.until_detail && `(${step.until_detail})`]), read) : '',
    step.optional ? words.optional : '',
  ].filter((note): note is string => !!note)
}

/** What is said of a finding beside its text. */
export function criterionNotes(it: Criterion): string[] {
  const arc = [it.arc_from, it.arc_to].filter(isNumber)
  return [
    it.end_feel ? words.endFeel(endFeels[it.end_feel]) : '',
    it.part_of_range ? rangeParts[it.part_of_range] : '',
    arc.length ? `${arc.join(' to ')}°` : '',
    it.displacement ? displacements[it.displacement] : '',
    isNumber(it.attempts) && it.attempts > 1 ? words.onlyAfter(it.attempts) : '',
    it.reverses ? words.reverses(it.reverses) : '',
  ].filter(Boolean)
}

export function inabilityLine(it: Inability): string {
  return joined([
    `${it.reason ? inabilityReasons[it.reason] : ''}:`,
    it.outcome ? outcomes[it.outcome].toLowerCase() : '',
    it.note && `(${it.note})`,
  ])
}

/** The bounds of a level that is a class of numbers. */
export function levelRange(from: number | null, to: number | null, unit: string): string {
  if (isNumber(from) && isNumber(to)) return joined([words.levelBetween(from, to), unit])
  if (isNumber(from)) return joined([words.levelFrom(from), unit])
  return isNumber(to) ? joined([words.levelBelow(to), unit]) : ''
}

/** How far a caution reaches, which answer is unsafe, and for which variant it holds. */
export function cautionNotes(it: Caution): { unsafe: string; reach: string } {
  const loading = it.scope === 'joint' && it.joint ? words.loading(joints[it.joint]) : ''
  const reach = loading || (it.scope ? cautionScopes[it.scope] : '')
  return {
    unsafe: it.unsafe_answers.map((answer) => answers[answer]).join(words.or),
    reach: joined([reach, it.variant && words.onlyVariant(it.variant)], '; '),
  }
}

export function repeatLine(it: Repeat): string {
  const when = it.when === 'after_days' && isNumber(it.days) ? words.afterDays(it.days) : null
  const keep = it.keep_same ? `${words.keepSame} ${it.keep_same}` : ''
  return joined([`${when ?? (it.when ? repeatWhen[it.when] : '')}.`, it.reason, keep])
}

/** For whom a norm is, and its range. */
export function normWords(norm: Norm): { who: string; range: string } {
  const aged = isNumber(norm.age_from) || isNumber(norm.age_to)
  const ranged = isNumber(norm.low) || isNumber(norm.high)
  return {
    who: joined(
      [
        norm.kind === 'side_difference'
          ? words.sideDifference
          : norm.kind === 'sign'
            ? words.normalAmount
            : '',
        norm.sex ? sexes[norm.sex] : '',
        aged ? words.age(String(norm.age_from ?? '…'), String(norm.age_to ?? '…')) : '',
      ],
      ', ',
    ),
    range: joined(
      [ranged ? joined([`${norm.low ?? '…'} to ${norm.high ?? '…'}`, norm.unit]) : '', norm.note],
      '; ',
    ),
  }
}
